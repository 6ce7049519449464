package text

import "lazo/core/expr"

// Bit is a part of a text as its author sees it: words, an answer that is inserted, or a
// block with its bits.
type Bit struct {
	Words  string
	Answer string // what is inserted, in words
	When   string // the sentence of a block that is printed when that holds
	Each   string // the section of a block that is printed for each of its rows
	Else   bool   // the block is printed when the one before it is not
	Bits   []Bit  // of a block
}

// Block reports whether the bit is a block.
func (b Bit) Block() bool { return b.When != "" || b.Each != "" || b.Else }

// Outline is a text in bits, its expressions in the words of syms. A text that can't be
// read is given as it is written.
func Outline(src string, blocks bool, syms *expr.Symbols) []Bit {
	t, err := Parse(src, blocks)
	if err != nil {
		return []Bit{{Words: src}}
	}
	return outline(t.pieces, syms)
}

func outline(pieces []piece, syms *expr.Symbols) (out []Bit) {
	for _, p := range pieces {
		switch {
		case p.each != "":
			label, inner := p.each, syms
			if g := syms.Groups[p.each]; g != nil {
				label, inner = g.Label, syms.InRow(g)
			}
			out = append(out, Bit{Each: label, Bits: outline(p.yes, inner)})
		case p.block:
			out = append(out, Bit{When: expr.PiecesText(syms.Sentence(p.node)), Bits: outline(p.yes, syms)})
			if len(p.no) > 0 {
				out = append(out, Bit{Else: true, Bits: outline(p.no, syms)})
			}
		case p.node != nil:
			out = append(out, Bit{Answer: expr.PiecesText(syms.Phrase(p.node))})
		default:
			out = append(out, Bit{Words: p.words})
		}
	}
	return out
}
