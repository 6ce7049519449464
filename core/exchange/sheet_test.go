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
		"commas": "a,b\nHéron,2\n", "semicolons": "a;b\r\nHéron;2\r\n", "tabs": "a\tb\nHéron\t2",
		"a mark":       "\ufeffa,b\nHéron,2",
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

// packed is a workbook of parts as they are given.
func packed(t testing.TB, parts map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, text := range parts {
		part, err := w.Create(name)
		require.NoError(t, err)
		_, err = part.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

// bookOf is a workbook of one sheet, with what else is given.
func bookOf(sheet, shared string) map[string]string {
	return map[string]string{
		"_rels/.rels":     `<Relationships><Relationship Id="r1" Type="http://x/officeDocument" Target="/xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml": `<workbook><workbookPr date1904="1"/><sheets><sheet name="One" sheetId="1" r:id="rId1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="rId1" Type="http://x/worksheet" Target="worksheets/Sheet1.xml"/>` +
			`<Relationship Id="rId2" Type="http://x/sharedStrings" Target="sharedStrings.xml"/>` +
			`<Relationship Id="rId3" Type="http://x/styles" Target="styles.xml"/></Relationships>`,
		`XL\worksheets\sheet1.xml`: "<worksheet><sheetData>" + sheet + "</sheetData></worksheet>",
		"xl/sharedStrings.xml":     "<sst>" + shared + "</sst>",
		"xl/styles.xml":            `<styleSheet><cellStyleXfs><xf numFmtId="14"/></cellStyleXfs><cellXfs><xf numFmtId="0"/><xf numFmtId="14"/></cellXfs></styleSheet>`,
	}
}

// Programs write workbooks in many ways: cells without names, in rows with gaps, texts in
// runs, beside their pronunciation, in place, as results, with signs that XML can't hold.
func TestAWorkbookHoweverItWasWritten(t *testing.T) {
	data := packed(t, bookOf(
		`<row><c t="s"><v>0</v></c><c t="s"><v>1</v></c><c t="inlineStr"><is><t>in </t><r><t>place</t></r></is></c></row>`+
			`<row r="3"><c r="B3" t="str"><f>A1</f><v>of_x0020_a &lt;formula&gt;</v></c><c t="b"><v>1</v></c><c t="e"><v>#N/A</v></c>`+
			`<c r="G3" s="1"><v>44710</v></c><c s="1" t="d"><v>2026-05-30T00:00:00</v></c><c t="d"><v>2026-05-30T09:30:00</v></c><c t="s"><v>99</v></c></row>`+
			`<row r="900000"><c r="A900000" s="1"/></row>`,
		`<si><t>plain</t></si><si><r><t xml:space="preserve">two </t></r><r><t><![CDATA[<runs>]]></t></r><rPh><t>spoken</t></rPh></si>`))
	sheets, err := exchange.ReadSheets(data)
	require.NoError(t, err)
	require.Len(t, sheets, 1)
	assert.Equal(t, "One", sheets[0].Name)
	assert.Equal(t, [][]string{
		{"plain", "two <runs>", "in place"}, nil,
		{"", "of a <formula>", "1", "#N/A", "", "", "2026-05-30", "2026-05-30", "2026-05-30 09:30"},
	}, sheets[0].Cells, "what is empty at the end is no line, and days are counted from 1904")
}

// What is small as long as it is packed takes neither time nor memory: it is refused where
// a bound is met.
func TestAWorkbookTakesSoMuchAndNoMore(t *testing.T) {
	long := strings.Repeat("0123456789", 150_000)
	for name, c := range map[string]struct{ sheet, shared, says string }{
		"cells": {strings.Repeat("<row>"+strings.Repeat("<c><v>1</v></c>", 100)+"</row>", exchange.MaxCells/100+1), "",
			"more than 500000 cells"},
		"empty cells":    {"<row>" + strings.Repeat("<c/>", 4*exchange.MaxCells+1) + "</row>", "", "more than 500000 cells"},
		"shared texts":   {"", strings.Repeat("<si><t>x</t></si>", exchange.MaxCells+1), "more than 500000 cells"},
		"a long text":    {"<row><c t=\"str\"><v>" + long + "</v></c></row>", "", "longer than 1 MB"},
		"a long name":    {"<row><c t=\"" + strings.ReplaceAll(long, "0", ">") + "\"/></row>", "", "longer than 1 MB"},
		"a long comment": {"<!-- " + strings.ReplaceAll(long, "0", "<") + " --><row/>", "", "longer than 1 MB"},
		"literal text": {"<row><c t=\"str\"><v><![CDATA[" + strings.ReplaceAll(long, "0", "<") + "]]></v></c></row>", "",
			"longer than 1 MB"},
		"much text": {"", strings.Repeat("<si><t>"+long[:1_000_000]+"</t></si>", 60), "more than 48 MB"},
		"unpacked": {strings.Repeat("<row>"+strings.Repeat(" ", 1_000_000)+"</row>", 220), "",
			"unpacks to more than 200 MB"},
		"lines":         {`<row r="25001"><c><v>1</v></c></row>`, "", "more than 25000 lines"},
		"columns":       {`<row><c r="AAA1"><v>1</v></c></row>`, "", "line 1 has more than 500 columns"},
		"no part of it": {"<row", "", "no whole XLSX file"},
	} {
		parts := bookOf(c.sheet, c.shared)
		data := packed(t, parts)
		assert.Less(t, len(data), 1<<20, name)
		_, err := exchange.ReadSheets(data)
		assert.ErrorContains(t, err, c.says, name)
	}
}
