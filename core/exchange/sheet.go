package exchange

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
)

// Sheet is a sheet of a spreadsheet as texts.
type Sheet struct {
	Name   string
	Cells  [][]string
	Faults []Fault // cells that say something else than they show
}

// Fault is what is wrong in a cell of a sheet.
type Fault struct {
	Sheet string
	Cell  string // such as B7
	Text  string
}

func (f Fault) String() string {
	if f.Sheet == "" {
		return f.Cell + ": " + f.Text
	}
	return f.Sheet + ", " + f.Cell + ": " + f.Text
}

// CellName names a cell as spreadsheets do; both are counted from 0.
func CellName(row, column int) string {
	name, err := excelize.CoordinatesToCellName(column+1, row+1)
	if err != nil {
		return "line " + strconv.Itoa(row+1)
	}
	return name
}

// Bounds of a spreadsheet.
const (
	MaxSheetBytes   = 16 << 20
	MaxSheetRows    = 25_000
	MaxManyBytes    = 48 << 20
	MaxManyRows     = 250_001
	MaxSheetColumns = 500
	maxSheets       = 50
	maxCell         = 32_767 // characters in a cell of XLSX
	maxUnpacked     = 200 << 20
	MaxCells        = 500_000 // of a workbook, and texts that its cells share
)

// unpacking bounds how many workbooks are read at once: each cell of one that is unpacked
// takes some hundred bytes.
var unpacking = make(chan struct{}, 2)

// ErrSheet is wrapped by what hinders a spreadsheet from being read.
var ErrSheet = errors.New("this can’t be read as a spreadsheet")

func sheetError(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrSheet, fmt.Sprintf(format, args...))
}

// ReadSheets reads a spreadsheet: XLSX, or CSV or cells that were pasted, parted by
// commas, semicolons or tabs, in UTF-8, UTF-16 or Windows-1252. Dates are written
// 2026-05-30, times 09:30; of a formula the result counts.
func ReadSheets(data []byte) ([]Sheet, error) { return readSheets(data, MaxSheetBytes, MaxSheetRows) }

// ReadMany is ReadSheets for many rows: a text may have up to [MaxManyRows] of them, and
// [MaxManyBytes]; a workbook no more than others, since all of it has to be unpacked.
func ReadMany(data []byte) ([]Sheet, error) { return readSheets(data, MaxManyBytes, MaxManyRows) }

func readSheets(data []byte, bytesAtMost, rows int) ([]Sheet, error) {
	switch {
	case len(data) > bytesAtMost:
		return nil, sheetError("it has more than %d MB", bytesAtMost>>20)
	case bytes.HasPrefix(data, []byte("PK\x03\x04")):
		return readXLSX(data)
	case bytes.HasPrefix(data, []byte("\xd0\xcf\x11\xe0")):
		return nil, sheetError("it is locked with a password or in an old format; save it as XLSX without a password")
	}
	text, err := decoded(data)
	if err != nil {
		return nil, err
	}
	cells, err := readCSV(text, rows)
	return []Sheet{{Cells: cells}}, err
}

// decoded finds out how a text was written down.
func decoded(data []byte) (string, error) {
	switch {
	case bytes.HasPrefix(data, []byte("\xef\xbb\xbf")):
		data = data[3:]
	case bytes.HasPrefix(data, []byte("\xff\xfe")), bytes.HasPrefix(data, []byte("\xfe\xff")):
		units := make([]uint16, 0, len(data)/2)
		for i := 2; i+1 < len(data); i += 2 {
			lo, hi := data[i], data[i+1]
			if data[0] == 0xfe {
				lo, hi = hi, lo
			}
			units = append(units, uint16(lo)|uint16(hi)<<8)
		}
		return string(utf16.Decode(units)), nil
	}
	if bytes.IndexByte(data, 0) >= 0 {
		return "", sheetError("it is neither XLSX nor CSV")
	}
	if utf8.Valid(data) {
		return string(data), nil
	}
	text, err := charmap.Windows1252.NewDecoder().Bytes(data)
	if err != nil {
		return "", sheetError("its letters can’t be made out; save it as UTF-8")
	}
	return string(text), nil
}

// separator is what parts the cells of a text: what stands most often in its first line.
func separator(text string) rune {
	first, _, _ := strings.Cut(text, "\n")
	best, most := ',', 0
	for _, sep := range "\t;," {
		if n := strings.Count(first, string(sep)); n > most {
			best, most = sep, n
		}
	}
	return best
}

func readCSV(text string, rows int) ([][]string, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = separator(text), -1, true
	var out [][]string
	for {
		row, err := r.Read()
		if err != nil {
			if len(out) == 0 || errors.As(err, new(*csv.ParseError)) {
				return out, noRows(err)
			}
			return out, nil
		}
		if err := within(len(out), rows, row); err != nil {
			return nil, err
		}
		for i := range row { // the apostrophe that Lazo itself puts before what looks like a formula
			row[i] = asMeant(row[i])
		}
		out = append(out, row)
	}
}

func noRows(err error) error {
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		return sheetError("line %d can’t be made out: %s", parse.Line, parse.Err)
	}
	return nil
}

func within(read, rows int, row []string) error {
	switch {
	case read >= rows:
		return sheetError("it has more than %d lines", rows)
	case len(row) > MaxSheetColumns:
		return sheetError("line %d has more than %d columns", read+1, MaxSheetColumns)
	}
	return nil
}

// countCells reports whether a workbook has more cells than are read, by going through it
// once as a stream, which takes no memory.
func countCells(data []byte) error {
	packed, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return sheetError("it is no whole XLSX file")
	}
	unpacked, cells := uint64(0), 0
	for _, f := range packed.File {
		if unpacked += f.UncompressedSize64; unpacked > maxUnpacked {
			return sheetError("it unpacks to more than %d MB", maxUnpacked>>20)
		}
		if !strings.HasSuffix(f.Name, ".xml") {
			continue
		}
		part, err := f.Open()
		if err != nil {
			return sheetError("it is no whole XLSX file")
		}
		cells += countElements(io.LimitReader(part, maxUnpacked), MaxCells-cells)
		_ = part.Close()
		if cells > MaxCells {
			return sheetError("it has more than %d cells", MaxCells)
		}
	}
	return nil
}

// countElements counts the cells and shared texts of a part, until there are more than most.
func countElements(part io.Reader, most int) (n int) {
	d := xml.NewDecoder(part)
	for n <= most {
		token, err := d.RawToken()
		if err != nil {
			return n // what is wrong with it is said by who reads it
		}
		if start, is := token.(xml.StartElement); is && (start.Name.Local == "c" || start.Name.Local == "si") {
			n++
		}
	}
	return n
}

func readXLSX(data []byte) ([]Sheet, error) {
	unpacking <- struct{}{}
	defer func() { <-unpacking }()
	if err := countCells(data); err != nil {
		return nil, err
	}
	book, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{
		UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: maxUnpacked, RawCellValue: true,
	})
	if err != nil {
		return nil, sheetError("it is no whole XLSX file")
	}
	defer book.Close()
	names := book.GetSheetList()
	if len(names) > maxSheets {
		return nil, sheetError("it has more than %d sheets", maxSheets)
	}
	var out []Sheet
	x := xlsx{book, map[int]string{}}
	for _, name := range names {
		s, err := x.sheet(name)
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

// xlsx is a workbook being read; moments are the layouts of the styles that show a
// number as a date or a time, "" for those that do not.
type xlsx struct {
	book    *excelize.File
	moments map[int]string
}

func (x xlsx) sheet(name string) (Sheet, error) {
	s := Sheet{Name: name}
	rows, err := x.book.Rows(name)
	if err != nil {
		return s, sheetError("the sheet “%s” can’t be read", name)
	}
	defer rows.Close()
	for rows.Next() {
		row, err := rows.Columns()
		if err != nil {
			return s, sheetError("line %d of the sheet “%s” can’t be read", len(s.Cells)+1, name)
		}
		if err := within(len(s.Cells), MaxSheetRows, row); err != nil {
			return s, err
		}
		for i := range row {
			row[i] = x.shown(name, CellName(len(s.Cells), i), row[i])
		}
		s.Cells = append(s.Cells, row)
	}
	x.doubts(&s)
	return s, nil
}

// shown is a cell as one reads it: a number that is shown as a date becomes one.
func (x xlsx) shown(sheet, cell, raw string) string {
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil || n < 0 {
		return raw
	}
	style, err := x.book.GetCellStyle(sheet, cell)
	if err != nil || style == 0 {
		return raw
	}
	layout, ok := x.moments[style]
	if !ok {
		layout = x.layout(style)
		x.moments[style] = layout
	}
	kind, err := x.book.GetCellType(sheet, cell)
	if layout == "" || err != nil || kind == excelize.CellTypeSharedString || kind == excelize.CellTypeInlineString {
		return raw
	}
	at, err := excelize.ExcelDateToTime(n, false)
	if err != nil {
		return raw
	}
	return at.Format(layout)
}

// layout tells how a style shows a number if it shows it as a date or a time: the
// built-in formats 14 to 22 and 45 to 47, and those written with d, y or h.
func (x xlsx) layout(style int) string {
	st, err := x.book.GetStyle(style)
	if err != nil {
		return ""
	}
	format := ""
	switch n := st.NumFmt; {
	case st.CustomNumFmt != nil:
		format = strings.ToLower(*st.CustomNumFmt)
	case n >= 14 && n <= 17:
		format = "y"
	case n >= 18 && n <= 21, n >= 45 && n <= 47:
		format = "h"
	case n == 22:
		format = "yh"
	}
	day, hour := strings.ContainsAny(unquoted(format), "yd"), strings.Contains(unquoted(format), "h")
	switch {
	case day && hour:
		return "2006-01-02 15:04"
	case day:
		return "2006-01-02"
	case hour:
		return "15:04"
	}
	return ""
}

// unquoted is a number format without what it prints as it stands.
func unquoted(format string) string {
	parts := strings.Split(format, `"`)
	var out strings.Builder
	for i := 0; i < len(parts); i += 2 {
		out.WriteString(parts[i])
	}
	s := out.String()
	for {
		from, to := strings.IndexByte(s, '['), strings.IndexByte(s, ']')
		if from < 0 || to < from {
			return s
		}
		s = s[:from] + s[to+1:]
	}
}

// doubts notes cells that are merged, and formulas without a result.
func (x xlsx) doubts(s *Sheet) {
	merged, _ := x.book.GetMergeCells(s.Name)
	for _, m := range merged {
		s.Faults = append(s.Faults, Fault{
			s.Name, m.GetStartAxis(), "this cell is merged up to " + m.GetEndAxis() + "; part them, since only the first would be read",
		})
	}
	for r, row := range s.Cells {
		for c, cell := range row {
			if cell != "" {
				continue
			}
			if formula, _ := x.book.GetCellFormula(s.Name, CellName(r, c)); formula != "" {
				s.Faults = append(s.Faults, Fault{
					s.Name, CellName(r, c), "this is a formula without a result; write what it should say",
				})
			}
		}
	}
}

// SheetName is a name that a sheet can have.
func SheetName(name string) string {
	name = strings.Map(func(r rune) rune {
		if strings.ContainsRune(`[]:*?/\\`, r) || r < ' ' {
			return ' '
		}
		return r
	}, name)
	if r := []rune(name); len(r) > excelize.MaxSheetNameLength {
		name = string(r[:excelize.MaxSheetNameLength])
	}
	if name = strings.Trim(name, " '"); name == "" {
		return "Sheet"
	}
	return name
}

// WriteXLSX writes sheets as XLSX: texts as texts, never as formulas, with the first row
// standing out and kept in sight.
func WriteXLSX(sheets []Sheet) ([]byte, error) {
	book := excelize.NewFile()
	defer book.Close()
	bold, err := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}, NumFmt: 49})
	if err != nil {
		return nil, err
	}
	plain, err := book.NewStyle(&excelize.Style{NumFmt: 49, Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
	if err != nil {
		return nil, err
	}
	for i, s := range sheets {
		if i == 0 {
			err = book.SetSheetName("Sheet1", s.Name)
		} else {
			_, err = book.NewSheet(s.Name)
		}
		if err != nil {
			return nil, err
		}
		if err := writeSheet(book, s, bold, plain); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	if err := book.Write(&out); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func writeSheet(book *excelize.File, s Sheet, bold, plain int) error {
	w, err := book.NewStreamWriter(s.Name)
	if err != nil {
		return err
	}
	for i := range width(s.Cells) {
		if err := w.SetColWidth(i+1, i+1, 22); err != nil {
			return err
		}
	}
	if err := w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	for r, row := range s.Cells {
		style := plain
		if r == 0 {
			style = bold
		}
		cells := make([]any, len(row))
		for c, text := range row {
			if utf8.RuneCountInString(text) > maxCell {
				text = string([]rune(text)[:maxCell])
			}
			cells[c] = excelize.Cell{StyleID: style, Value: text}
		}
		if err := w.SetRow(CellName(r, 0), cells); err != nil {
			return err
		}
	}
	return w.Flush()
}

func width(cells [][]string) int {
	most := 0
	for _, row := range cells {
		most = max(most, len(row))
	}
	return most
}

// WriteCSV writes a sheet as CSV (RFC 4180) with a byte order mark; cells that a
// spreadsheet would take for a formula begin with an apostrophe.
func WriteCSV(s Sheet) ([]byte, error) {
	var out bytes.Buffer
	out.WriteString("\ufeff")
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	for _, row := range s.Cells {
		line := make([]string, len(row))
		for i, cell := range row {
			line[i] = safe(cell)
		}
		if err := w.Write(line); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return out.Bytes(), w.Error()
}
