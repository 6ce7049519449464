package exchange_test

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"lazo/core/exchange"
)

func TestSheetsAreReadHoweverTheyWereWritten(t *testing.T) {
	for name, text := range map[string]string{
		"commas": "a,b\nHéron,2\n", "semicolons": "a;b\r\nHéron;2\r\n", "tabs": "a\tb\nHéron\t2", "a mark": "\ufeffa,b\nHéron,2",
		"Windows-1252": "a;b\nH\xe9ron;2", "UTF-16": "\xff\xfea\x00,\x00b\x00\n\x00H\x00\xe9\x00r\x00o\x00n\x00,\x002\x00",
		"quotes": "\"a\",b\n\"Héron\",\"2\"", "an apostrophe of ours": "a,b\nHéron,2",
	} {
		sheets, err := exchange.ReadSheets([]byte(text))
		require.NoError(t, err, name)
		assert.Equal(t, [][]string{{"a", "b"}, {"Héron", "2"}}, sheets[0].Cells, name)
	}
	for name, c := range map[string]struct{ data, says string }{
		"a password": {"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 and more", "password"},
		"broken":     {"PK\x03\x04 and no more", "no whole XLSX"},
		"a picture":  {"\x89PNG\r\n\x1a\n\x00\x00", "neither XLSX nor CSV"},
		"many rows":  {strings.Repeat("a\n", 100_000), "more than 25000 lines"},
		"wide":       {strings.Repeat("a,", 600), "more than 500 columns"},
		"huge":       {strings.Repeat("x", exchange.MaxSheetBytes+1), "more than 16 MB"},
	} {
		_, err := exchange.ReadSheets([]byte(c.data))
		require.ErrorIs(t, err, exchange.ErrSheet, name)
		assert.ErrorContains(t, err, c.says, name)
	}
}

func TestWhatAWorkbookHolds(t *testing.T) {
	book := excelize.NewFile()
	at := time.Date(2026, 5, 30, 9, 30, 0, 0, time.UTC)
	day, err := book.NewStyle(&excelize.Style{NumFmt: 14})
	require.NoError(t, err)
	layout := `[$-409]dd"th day"/mm/yyyy hh:mm`
	moment, err := book.NewStyle(&excelize.Style{CustomNumFmt: &layout})
	require.NoError(t, err)
	money, err := book.NewStyle(&excelize.Style{NumFmt: 4})
	require.NoError(t, err)
	for cell, v := range map[string]any{"A1": "day", "B1": "moment", "C1": "money", "D1": "text", "E1": "sum",
		"A2": 46172, "B2": 46172.395833333336, "C2": 1234.5, "D2": "007", "A4": "merged", "A5": at} {
		require.NoError(t, book.SetCellValue("Sheet1", cell, v))
	}
	require.NoError(t, book.SetCellStyle("Sheet1", "A2", "A2", day))
	require.NoError(t, book.SetCellStyle("Sheet1", "B2", "B2", moment))
	require.NoError(t, book.SetCellStyle("Sheet1", "C2", "D2", money))
	require.NoError(t, book.SetCellFormula("Sheet1", "E2", "SUM(C1:C2)"))
	require.NoError(t, book.MergeCell("Sheet1", "A4", "B4"))
	var out bytes.Buffer
	require.NoError(t, book.Write(&out))
	sheets, err := exchange.ReadSheets(out.Bytes())
	require.NoError(t, err)
	require.Len(t, sheets, 1)
	assert.Equal(t, []string{"2026-05-30", "2026-05-30 09:30", "1234.5", "007"}, sheets[0].Cells[1][:4])
	assert.Equal(t, "2026-05-30 09:30", sheets[0].Cells[4][0])
	said := ""
	for _, f := range sheets[0].Faults {
		said += f.String() + "\n"
	}
	assert.Contains(t, said, "Sheet1, A4: this cell is merged up to B4")
	assert.Contains(t, said, "Sheet1, E2: this is a formula without a result")
}

// A workbook of more cells than anybody reads is refused before it is unpacked into memory.
func TestAWorkbookHasSoManyCells(t *testing.T) {
	var b bytes.Buffer
	packed := zip.NewWriter(&b)
	part, err := packed.Create("xl/worksheets/sheet1.xml")
	require.NoError(t, err)
	_, err = part.Write([]byte("<worksheet><sheetData><row>" + strings.Repeat("<c/>", exchange.MaxCells+1) + "</row></sheetData></worksheet>"))
	require.NoError(t, err)
	require.NoError(t, packed.Close())
	assert.Less(t, b.Len(), 100_000, "it is small as long as it is packed")
	_, err = exchange.ReadSheets(b.Bytes())
	assert.ErrorContains(t, err, "more than 500000 cells")
}
