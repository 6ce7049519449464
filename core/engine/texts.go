package engine

import (
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
)

// textKey is a text with answers as it is seen from a place: the same words mean another
// row in another section.
type textKey struct {
	group int32
	src   string
}

// texts compiles the texts in which answers stand, in the form's language and in those
// that it is translated to.
func (c *compiler) texts() {
	c.p.texts, c.p.outside = map[textKey]*text.Compiled{}, map[textKey]*text.Compiled{}
	said := c.form.Said()
	for _, s := range said {
		linked := func(src string) string { return src }
		if goesOut(s.Property) && !strings.HasPrefix(s.Property, "documents.") {
			linked = c.p.linked
		}
		it, pl, syms := c.textPlace(s.Owner, s.Property)
		if it != nil {
			it.textual = true
		}
		group := int32(-1)
		if it != nil {
			group = it.group
		} else if syms.Row != nil {
			group = int32(syms.Row.Index)
		}
		src := linked(s.Text)
		if compiled := c.text(src, s.Blocks, pl, syms); compiled != nil {
			c.p.texts[textKey{group, src}] = compiled
			if !addresses(s.Property) && slices.ContainsFunc(compiled.Codes, c.p.hides) {
				c.p.outside[textKey{group, src}] = compiled.Withhold(c.p.hides)
				if goesOut(s.Property) {
					c.remark("withheld", form.Warning, pl.at, pl.key, "it names a sensitive answer, which is left out of what is sent")
				}
			}
			c.p.clockedTexts = c.p.clockedTexts || compiled.Clocked()
		}
		for _, tag := range c.form.Languages() {
			if other := linked(c.form.Translations[tag][s.Text]); other != "" {
				// Only checked: a form that is read in a language is compiled in it.
				c.text(other, s.Blocks, place{at: "translations." + tag + ": " + pl.at, key: pl.key}, syms)
			}
		}
	}
}

// goesOut reports whether a text leaves by letter, or may.
func goesOut(property string) bool {
	return strings.HasPrefix(property, "messages.") || strings.HasPrefix(property, "confirm.") ||
		strings.HasPrefix(property, "documents.")
}

// addresses reports whether a text says to whom a letter goes, who may well be somebody that
// only a sensitive answer names.
func addresses(property string) bool { return strings.Contains(property, ".to.") }

// hides reports whether an expression reads an answer that is sensitive.
func (p *Program) hides(code *expr.Code) bool { return readsOf(code, p.sensitive) }

// readsOf reports whether an expression reads the answer to one of some questions, or one of
// some parameters.
func readsOf(code *expr.Code, keys map[string]bool) bool {
	return slices.ContainsFunc(code.Items, func(sym *expr.Symbol) bool { return keys[sym.Key] }) ||
		slices.ContainsFunc(code.Params, func(name string) bool { return keys["url."+name] })
}

// Sensitive reports whether the answer to a question is sensitive, or holds one that is;
// url.NAME is a parameter.
func (p *Program) Sensitive(key string) bool { return p.sensitive[key] }

// textFor is a text in which answers stand, nil if none do; to who may not see what is
// sensitive, and more that is kept apart, it is the text without that.
func (p *Program) textFor(key textKey, apart map[string]bool) *text.Compiled {
	c := p.texts[key]
	if c == nil || apart == nil {
		return c
	}
	hides := func(code *expr.Code) bool { return p.hides(code) || readsOf(code, apart) }
	if !slices.ContainsFunc(c.Codes, hides) {
		return c
	}
	return c.Withhold(hides)
}

// sent is Plain or Markdown of a text that leaves by letter: without what is sensitive.
func (o *Outcome) sent(src string, printed func(c *text.Compiled, f *expr.Evaluation) string) string {
	c := o.p.outside[textKey{-1, src}]
	if c == nil {
		c = o.p.texts[textKey{-1, src}]
	}
	if c == nil {
		return src
	}
	return printed(c, &o.frame)
}

// textPlace is where a text stands, and what it can name.
func (c *compiler) textPlace(owner, property string) (*item, place, *expr.Symbols) {
	if it := c.p.lookup[owner]; it != nil {
		return it, place{at: it.at + "." + property, key: owner}, c.scope(it)
	}
	at := property
	for _, p := range c.form.Pages {
		if p.Key == owner {
			at = "pages/" + owner + "." + property
		}
		for _, s := range p.Sections {
			if s.Key == owner {
				at = "pages/" + p.Key + "/" + owner + "." + property
			}
		}
	}
	if g := c.p.Symbols.Groups[owner]; g != nil && strings.HasPrefix(property, "checks.") {
		return nil, place{at: at, key: owner}, c.p.Symbols.InRow(g)
	}
	return nil, place{at: at, key: owner}, c.p.Symbols
}

// text reads and checks one text; nil if it is faulty.
func (c *compiler) text(src string, blocks bool, pl place, syms *expr.Symbols) *text.Compiled {
	if !text.Holds(src) {
		return nil
	}
	t, err := text.Parse(src, blocks)
	if err != nil {
		c.fault(src, err.(*expr.Fault), pl) //nolint:errorlint // the documented type
		return nil
	}
	compiled, faults := t.Compile(syms)
	for _, f := range faults {
		c.fault(src, f, pl)
	}
	if compiled == nil {
		return nil
	}
	for _, code := range compiled.Codes {
		c.took(code, len(src), pl, syms)
	}
	return compiled
}

// plain prints a text of an item, in the row at hand.
func (r *run) plain(it *item, src string) string {
	if c := r.p.textFor(textKey{it.group, src}, r.in.Apart); c != nil {
		return c.Plain(r.frame)
	}
	return src
}

// word prints the texts of an item in which answers stand.
func (r *run) word(it *item, st *ItemState) {
	if !it.textual {
		return
	}
	e := st.own()
	e.worded = true
	e.label, e.help = r.plain(it, st.labelSource()), r.plain(it, st.helpSource())
	if it.Type == form.Note || strings.Contains(st.labelSource()+st.helpSource(), "](") { // in which links may stand
		e.markdownLabel, e.markdownHelp = r.markdown(it, st.labelSource()), r.markdown(it, st.helpSource())
	}
	e.placeholder = r.plain(it, it.Placeholder)
	e.low, e.high = r.plain(it, it.Low), r.plain(it, it.High)
	for _, row := range it.Rows {
		e.lines = append(e.lines, r.plain(it, row.Name()))
	}
	for _, ch := range it.Choices {
		e.choices = append(e.choices, choiceWords{r.plain(it, ch.Name()), r.plain(it, ch.Help)})
	}
}

func (r *run) markdown(it *item, src string) string {
	if c := r.p.textFor(textKey{it.group, src}, r.in.Apart); c != nil {
		return c.Markdown(r.frame)
	}
	return src
}

// Plain prints a text of the form, of a page or of a section: what stands between braces
// is replaced by what people have answered.
func (o *Outcome) Plain(src string) string {
	if c := o.p.textFor(textKey{-1, src}, o.apart); c != nil {
		return c.Plain(&o.frame)
	}
	return src
}

// Markdown is Plain for a text that is Markdown; answers stand in it as plain text.
func (o *Outcome) Markdown(src string) string {
	if c := o.p.textFor(textKey{-1, src}, o.apart); c != nil {
		return c.Markdown(&o.frame)
	}
	return src
}
