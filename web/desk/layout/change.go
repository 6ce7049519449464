package layout

import (
	"context"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	decoder "github.com/go-playground/form/v4"

	"lazo/core/author"
	"lazo/core/form"
	"lazo/store"
)

// posted reads posted fields into commands. Fields that a command does not have are left
// out.
var posted = decoder.NewDecoder()

// Command reads the posted fields as a command of a name.
func Command(name string, v url.Values) (author.Command, error) {
	begin := author.Commands[name]
	if begin == nil {
		return nil, Wrong("there is no change called “%s”", name)
	}
	c := begin()
	if err := posted.Decode(c, v); err != nil {
		return nil, Wrong("this page is not complete; here it is afresh")
	}
	return c, nil
}

// Apply does a command on a draft, of which the author saw a version. It is the one way
// in which a draft is changed.
func (d *Desk) Apply(
	ctx context.Context, f store.Form, def *form.Form, version int64, c author.Command,
) (store.Form, author.Doing, error) {
	return d.applyBy(ctx, f, def, version, c, store.InForm.Edit)
}

// ApplyWhole is Apply for a command that was made of all the fields of a page, and so is
// refused if anything of that was changed since, by oneself too.
func (d *Desk) ApplyWhole(ctx context.Context, f store.Form, def *form.Form, version int64, c author.Command) error {
	_, _, err := d.applyBy(ctx, f, def, version, c, store.InForm.EditWhole)
	return err
}

func (d *Desk) applyBy(
	ctx context.Context, f store.Form, def *form.Form, version int64, c author.Command,
	edit func(store.InForm, context.Context, int64, store.MemberID, form.Edit) (store.Form, error),
) (store.Form, author.Doing, error) {
	doing, err := c.Do(def, d.Now())
	if err != nil || doing.Empty() {
		return f, doing, err
	}
	after, err := edit(d.InForm(f), ctx, version, Member(ctx).ID, doing.Edit)
	if err != nil {
		after = f
	}
	return after, doing, err
}

// SetWhole does a command that was made of all the fields of a page, on the version of
// the draft that the page showed.
func (d *Desk) SetWhole(r *http.Request, f store.Form, def *form.Form, c author.Command) error {
	version, err := strconv.ParseInt(r.PostForm.Get("version"), 10, 64)
	if err != nil {
		return Wrong("this page is not complete; here it is afresh")
	}
	return d.ApplyWhole(r.Context(), f, def, version, c)
}

// Problem is an ErrEdit in words.
func Problem(err error) string {
	return capital(author.Reason(err)) + "."
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// Wrong is a form.ErrEdit for a reason in words.
func Wrong(format string, args ...any) error {
	return fmt.Errorf("%w: %s", form.ErrEdit, fmt.Sprintf(format, args...))
}

// Written repeats the texts of a post that was refused, so that they are not lost.
func Written(v url.Values) string {
	var texts []string
	for _, name := range slices.Sorted(maps.Keys(v)) {
		for _, text := range v[name] {
			if text = strings.TrimSpace(text); len(text) > 12 && name != "version" && name != "part" {
				texts = append(texts, "“"+text+"”")
			}
		}
	}
	if len(texts) == 0 {
		return ""
	}
	return " You had written: " + strings.Join(texts, ", ")
}
