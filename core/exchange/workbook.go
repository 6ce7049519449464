package exchange

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
)

// Bounds of a workbook: what unpacks to more, has more cells or longer texts than these is
// refused where it is met, since a file of little size may unpack to very much.
const (
	maxUnpacked = 200 << 20
	maxTexts    = 48 << 20 // of all texts together
	maxPiece    = 1 << 20  // of a tag or a text of its XML
	MaxCells    = 500_000  // that say something, and texts that its cells share
	maxElements = 4 * MaxCells
	maxSheets   = 50
)

var tooLarge = sheetError("it unpacks to more than %d MB", maxUnpacked>>20)

// reading bounds how many workbooks are read at once.
var reading = make(chan struct{}, 2)

var errNotWhole = sheetError("it is no whole XLSX file")

// readXLSX reads a workbook (ECMA-376, part 1, 18) part by part as streams: in memory are
// the texts of its cells alone.
func readXLSX(data []byte) ([]Sheet, error) {
	reading <- struct{}{}
	defer func() { <-reading }()
	packed, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, errNotWhole
	}
	b := &workbook{parts: map[string]*zip.File{}}
	says := uint64(0) // of itself; what it really unpacks to is counted as it does
	for _, f := range packed.File {
		b.parts[partName(f.Name)] = f
		says += f.UncompressedSize64
	}
	if says > maxUnpacked {
		return nil, tooLarge
	}
	if err := b.open(); err != nil {
		return nil, err
	}
	out := make([]Sheet, 0, len(b.sheets))
	for _, s := range b.sheets {
		one, err := b.sheet(s.name, s.part)
		if err != nil {
			return nil, err
		}
		out = append(out, one)
	}
	return out, nil
}

// partName is the name of a part, which is the same in capitals and with strokes that lean
// the other way.
func partName(name string) string {
	return strings.ToLower(strings.TrimPrefix(path.Clean("/"+strings.ReplaceAll(name, `\`, "/")), "/"))
}

// workbook is one that is being read.
type workbook struct {
	parts    map[string]*zip.File
	unpacked int64 // bytes that were unpacked so far
	elements int   // cells and shared texts that were met
	cells    int   // those that say something
	text     int   // bytes of texts

	sheets  []struct{ name, part string }
	shared  []string
	layouts []string // by style: how it shows a number as a date or a time, "" if it doesn't
	since   bool     // days are counted from 1904
}

// each gives the elements of a part, as they begin and end, and the texts in them.
func (b *workbook) each(part string, visit func(xml.Token) error) error {
	f := b.parts[part]
	if f == nil {
		return errNotWhole
	}
	r, err := f.Open()
	if err != nil {
		return errNotWhole
	}
	defer r.Close()
	d := xml.NewDecoder(&pieces{from: r, book: b})
	for {
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if errors.Is(err, ErrSheet) {
			return err
		}
		if err != nil {
			return errNotWhole
		}
		if start, is := token.(xml.StartElement); is && (start.Name.Local == "c" || start.Name.Local == "si") {
			if b.elements++; b.elements > maxElements {
				return tooManyCells
			}
		}
		if err := visit(token); err != nil {
			return err
		}
	}
}

var tooManyCells = sheetError("it has more than %d cells", MaxCells)

// keep counts a text that is kept.
func (b *workbook) keep(text string) error {
	if text == "" {
		return nil
	}
	if b.cells++; b.cells > MaxCells {
		return tooManyCells
	}
	if b.text += len(text); b.text > maxTexts {
		return sheetError("its texts have more than %d MB", maxTexts>>20)
	}
	return nil
}

// pieces hands a part on, as long as it is within its bounds.
type pieces struct {
	from  io.Reader
	book  *workbook
	piece int    // bytes since a tag, a comment or a literal text began
	begun []byte // what it begins with, as long as that can be a mark
	mark  string // what ends the comment or literal text at hand, "" outside of one
	last  []byte // the bytes before in it, as many as are marks
}

// marks begin comments and literal texts, in which tags are none, and end them.
var marks = map[string]string{"<!--": "-->", "<![CDATA[": "]]>"}

func (p *pieces) Read(into []byte) (int, error) {
	n, err := p.from.Read(into)
	if p.book.unpacked += int64(n); p.book.unpacked > maxUnpacked {
		return 0, tooLarge
	}
	for rest := into[:n]; len(rest) > 0; {
		rest = rest[p.meet(rest):]
		if p.piece > maxPiece {
			return 0, sheetError("a text or a tag of it is longer than %d MB", maxPiece>>20)
		}
	}
	return n, err
}

// meet goes on to the next byte that may begin or end something, and says how far it went.
func (p *pieces) meet(data []byte) int {
	went := 1
	switch {
	case len(p.begun) > 0:
		p.begun = append(p.begun, data[0])
		end, is := marks[string(p.begun)]
		if is {
			p.mark, p.last = end, p.last[:0]
		}
		if is || !isMark(p.begun) {
			p.begun = p.begun[:0]
		}
	case p.mark != "":
		if went = bytes.IndexByte(data, '>') + 1; went == 0 {
			went = len(data)
		}
		p.last = append(p.last, data[max(0, went-3):went]...)
		p.last = p.last[max(0, len(p.last)-3):]
		if string(p.last) == p.mark {
			p.mark = ""
		}
	default:
		if went = bytes.IndexByte(data, '<') + 1; went == 0 {
			went = len(data)
			break
		}
		p.piece, p.begun = 0, append(p.begun, '<')
		return went
	}
	p.piece += went
	return went
}

// isMark reports whether a mark can still come of how something begins.
func isMark(begun []byte) bool {
	for mark := range marks {
		if strings.HasPrefix(mark, string(begun)) {
			return true
		}
	}
	return false
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

type relation struct{ kind, part string }

// relations are those of a part, by their ids.
func (b *workbook) relations(part string) (map[string]relation, error) {
	out := map[string]relation{}
	folder, name := path.Split(part)
	err := b.each(partName(folder+"_rels/"+name+".rels"), func(t xml.Token) error {
		if e, is := t.(xml.StartElement); is && e.Name.Local == "Relationship" {
			kind, to := attribute(e, "Type"), attribute(e, "Target")
			if !strings.HasPrefix(to, "/") {
				to = folder + to
			}
			out[attribute(e, "Id")] = relation{kind[strings.LastIndexByte(kind, '/')+1:], partName(to)}
		}
		return nil
	})
	return out, err
}

// open finds the sheets, the texts that their cells share, and the styles.
func (b *workbook) open() error {
	root, err := b.relations("")
	if err != nil {
		return err
	}
	main := ""
	for _, r := range root {
		if r.kind == "officeDocument" {
			main = r.part
		}
	}
	to, err := b.relations(main)
	if err != nil {
		return err
	}
	err = b.each(main, func(t xml.Token) error {
		e, is := t.(xml.StartElement)
		switch {
		case is && e.Name.Local == "workbookPr":
			b.since = slices.Contains([]string{"1", "true"}, attribute(e, "date1904"))
		case is && e.Name.Local == "sheet":
			if r := to[relationID(e)]; r.kind == "worksheet" {
				b.sheets = append(b.sheets, struct{ name, part string }{attribute(e, "name"), r.part})
			}
			if len(b.sheets) > maxSheets {
				return sheetError("it has more than %d sheets", maxSheets)
			}
		}
		return nil
	})
	for _, r := range to {
		switch {
		case err != nil:
		case r.kind == "sharedStrings" && b.parts[r.part] != nil:
			err = b.sharedTexts(r.part)
		case r.kind == "styles" && b.parts[r.part] != nil:
			err = b.styles(r.part)
		}
	}
	return err
}

// relationID is the id by which a sheet refers to its part, which has a name space of its own.
func relationID(e xml.StartElement) string {
	for _, a := range e.Attr {
		if a.Name.Local == "id" && a.Name.Space != "" {
			return a.Value
		}
	}
	return ""
}

// texts gathers the texts of an element, in all its runs, but not how they are pronounced.
type texts struct {
	into strings.Builder
	in   bool // a text
	read bool // a pronunciation
}

func (x *texts) meet(t xml.Token) {
	switch t := t.(type) {
	case xml.StartElement:
		x.in = t.Name.Local == "t"
		x.read = x.read || t.Name.Local == "rPh"
	case xml.EndElement:
		x.in = false
		if t.Name.Local == "rPh" {
			x.read = false
		}
	case xml.CharData:
		if x.in && !x.read {
			x.into.Write(t)
		}
	}
}

// take gives what was gathered, and begins anew.
func (x *texts) take() string {
	s := unescaped(x.into.String())
	x.into.Reset()
	return s
}

var escapes = regexp.MustCompile(`_x[0-9A-Fa-f]{4}_`)

// unescaped reads the signs that XML can't hold (ECMA-376, part 1, 22.9.2.19).
func unescaped(s string) string {
	if !strings.Contains(s, "_x") {
		return s
	}
	return escapes.ReplaceAllStringFunc(s, func(e string) string {
		n, err := strconv.ParseUint(e[2:6], 16, 16)
		if err != nil {
			return e
		}
		return string(rune(n))
	})
}

func (b *workbook) sharedTexts(part string) error {
	var x texts
	return b.each(part, func(t xml.Token) error {
		x.meet(t)
		if e, is := t.(xml.EndElement); is && e.Name.Local == "si" {
			s := x.take()
			b.shared = append(b.shared, s)
			return b.keep(s)
		}
		return nil
	})
}

// styles finds which of them show a number as a date or a time.
func (b *workbook) styles(part string) error {
	formats := map[string]string{}
	in := false
	return b.each(part, func(t xml.Token) error {
		switch e := t.(type) {
		case xml.StartElement:
			switch e.Name.Local {
			case "numFmt":
				formats[attribute(e, "numFmtId")] = attribute(e, "formatCode")
			case "cellXfs":
				in = true
			case "xf":
				if in {
					id := attribute(e, "numFmtId")
					b.layouts = append(b.layouts, layoutOf(id, formats[id]))
				}
			}
		case xml.EndElement:
			in = in && e.Name.Local != "cellXfs"
		}
		return nil
	})
}

// layoutOf tells how a number format shows a number if it shows it as a date or a time: the
// built-in ones 14 to 22 and 45 to 47, and those written with d, y or h.
func layoutOf(id, written string) string {
	format := strings.ToLower(written)
	if written == "" {
		switch n, _ := strconv.Atoi(id); {
		case n >= 14 && n <= 17:
			format = "y"
		case n >= 18 && n <= 21, n >= 45 && n <= 47:
			format = "h"
		case n == 22:
			format = "yh"
		}
	}
	format = unquoted(format)
	switch day, hour := strings.ContainsAny(format, "yd"), strings.Contains(format, "h"); {
	case day && hour:
		return dayAndTime
	case day:
		return time.DateOnly
	case hour:
		return "15:04"
	}
	return ""
}

const dayAndTime = "2006-01-02 15:04"

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

// sheet reads one as a stream.
func (b *workbook) sheet(name, part string) (Sheet, error) {
	r := &sheetReader{book: b, Sheet: Sheet{Name: name}, row: -1}
	err := b.each(part, r.meet)
	return r.Sheet, err
}

// sheetReader is a sheet that is being read, with the cell at hand; rows and columns are
// counted from 0.
type sheetReader struct {
	Sheet
	book        *workbook
	row, column int
	kind        string // of the cell
	style       int
	formula     bool
	in          bool // its value
	value       strings.Builder
	texts       texts
}

func (r *sheetReader) meet(t xml.Token) error {
	r.texts.meet(t)
	switch t := t.(type) {
	case xml.StartElement:
		return r.begin(t)
	case xml.CharData:
		if r.in {
			r.value.Write(t)
		}
	case xml.EndElement:
		r.in = false
		if t.Name.Local == "c" {
			return r.end()
		}
	}
	return nil
}

func (r *sheetReader) begin(e xml.StartElement) error {
	switch e.Name.Local {
	case "row":
		r.row, r.column = r.row+1, -1
		if n, err := strconv.Atoi(attribute(e, "r")); err == nil && n > r.row {
			r.row = n - 1
		}
	case "c":
		r.column++
		if column, _, err := excelize.CellNameToCoordinates(attribute(e, "r")); err == nil && column > r.column {
			r.column = column - 1
		}
		r.kind, r.formula = attribute(e, "t"), false
		r.style, _ = strconv.Atoi(attribute(e, "s"))
		r.value.Reset()
		r.texts.into.Reset()
	case "f":
		r.formula = true
	case "v":
		r.in = true
	case "mergeCell":
		if from, to, several := strings.Cut(attribute(e, "ref"), ":"); several {
			r.doubt(from, "this cell is merged up to "+to+"; part them, since only the first would be read")
		}
	}
	return nil
}

// end puts a cell into its place.
func (r *sheetReader) end() error {
	text := r.shown()
	if text == "" {
		if r.formula {
			r.doubt(CellName(r.row, r.column), "this is a formula without a result; write what it should say")
		}
		return nil
	}
	if r.kind != "s" { // those that are shared were counted
		if err := r.book.keep(text); err != nil {
			return err
		}
	}
	switch {
	case r.row >= MaxSheetRows:
		return sheetError("it has more than %d lines", MaxSheetRows)
	case r.column >= MaxSheetColumns:
		return sheetError("line %d has more than %d columns", r.row+1, MaxSheetColumns)
	}
	for len(r.Cells) <= r.row {
		r.Cells = append(r.Cells, nil)
	}
	line := r.Cells[r.row]
	for len(line) <= r.column {
		line = append(line, "")
	}
	line[r.column] = text
	r.Cells[r.row] = line
	return nil
}

// shown is the cell as one reads it: a number that is shown as a date becomes one.
func (r *sheetReader) shown() string {
	raw := r.value.String()
	switch r.kind {
	case "s":
		n, err := strconv.Atoi(strings.TrimSpace(raw))
		if err != nil || n < 0 || n >= len(r.book.shared) {
			return ""
		}
		return r.book.shared[n]
	case "inlineStr":
		return r.texts.take()
	case "str":
		return unescaped(raw)
	case "d":
		return isoShown(raw)
	case "", "n":
	default:
		return raw
	}
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil || n < 0 || r.style < 0 || r.style >= len(r.book.layouts) || r.book.layouts[r.style] == "" {
		return raw
	}
	at, err := excelize.ExcelDateToTime(n, r.book.since)
	if err != nil {
		return raw
	}
	return at.Format(r.book.layouts[r.style])
}

// isoShown is a moment of ISO 8601 as one reads it.
func isoShown(raw string) string {
	for _, layout := range []string{"2006-01-02T15:04:05", "2006-01-02T15:04:05Z07:00", time.DateOnly} {
		at, err := time.Parse(layout, raw)
		switch {
		case err != nil:
		case at.Equal(at.Truncate(24 * time.Hour)):
			return at.Format(time.DateOnly)
		default:
			return at.Format(dayAndTime)
		}
	}
	return raw
}

// doubt notes that a cell says something else than it shows, for the first ones.
func (r *sheetReader) doubt(cell, text string) {
	if len(r.Faults) < maxDoubts {
		r.Faults = append(r.Faults, Fault{r.Name, cell, text})
	}
}

// maxDoubts is how many cells of a sheet are told to be doubtful.
const maxDoubts = 200
