package public

import (
	"lazo/core/text"
	"lazo/web/desk/margin"
)

// ends are the closing texts, each as a sheet with its margin.
type ends struct {
	Sheets []sheet // those for some answers
	Own    sheet   // the form's own
}

// sheet is a closing text.
type sheet struct {
	N        int // -1 for the form's own
	Text     string
	Reads    []text.Bit
	Open     bool // it is at hand
	First    bool
	Last     bool
	Ties     []margin.Line
	Editor   *margin.Editor // when it is at hand
	Problems []string
}

func endsOf(m *margin.Margin, l look) *ends {
	out := &ends{Own: sheet{N: -1, Text: m.Def.End, Reads: text.Outline(m.Def.End, true, m.Syms), Open: l.End < 0}}
	for i, e := range m.Def.Ends {
		s := sheet{
			N: i, Text: e.Text, Reads: text.Outline(e.Text, true, m.Syms), Open: i == l.End, First: i == 0,
			Last: i == len(m.Def.Ends)-1,
		}
		if s.Open {
			s.Editor = m.EndEditor(i)
		} else {
			s.Ties = m.EndTie(i)
		}
		out.Sheets = append(out.Sheets, s)
	}
	return out
}
