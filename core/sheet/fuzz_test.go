package sheet_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/list"
	"lazo/core/sheet"
	"lazo/demo"
)

// Whatever is sent as a spreadsheet is refused, or makes a form whose edit can be made and
// undone; nothing fails.
func FuzzSheets(f *testing.F) {
	base := demo.LakeBulletin()
	csv, err := exchange.WriteCSV(sheet.Write(base, true)[0])
	require.NoError(f, err)
	xlsx, err := exchange.WriteXLSX(sheet.Write(base, false))
	require.NoError(f, err)
	for _, seed := range [][]byte{csv, xlsx, []byte("Question;Type\nA;number"),
		[]byte("Key\tQuestion\tCheck\na\tA\ta > 3\n– No")} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		sheets, err := exchange.ReadSheets(data)
		if err != nil {
			return
		}
		for _, s := range sheets {
			if table, faults := list.Read(s.Cells, form.Table{}); len(faults) == 0 {
				require.Empty(t, list.Check(table))
			}
		}
		for _, drop := range []bool{false, true} {
			got := sheet.Read(sheets, base, drop)
			if len(got.Faults) > 0 || len(got.Edit.Edits) == 0 {
				continue
			}
			after, back, err := form.Apply(base, got.Edit)
			require.NoError(t, err)
			require.JSONEq(t, string(got.Form.JSON()), string(after.JSON()))
			undone, _, err := form.Apply(after, back)
			require.NoError(t, err)
			require.JSONEq(t, string(base.JSON()), string(undone.JSON()))
		}
	})
}
