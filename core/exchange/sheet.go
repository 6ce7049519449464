package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
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
	maxCell         = 32_767 // characters in a cell of XLSX
)

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
	plain, err := book.NewStyle(&excelize.Style{NumFmt: 49,
		Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
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
	if err := w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2",
		ActivePane: "bottomLeft"}); err != nil {
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
