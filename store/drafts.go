package store

import (
	"bytes"
	"context"
	"encoding/json"
	"strings"
	"time"

	"gorm.io/gorm"

	"lazo/cache"
	"lazo/core/form"
)

// draftKey is a state of a form's draft, which is never another.
type draftKey struct {
	form    FormID
	version int64
}

// draftsHeld bounds the drafts that are remembered, in bytes, about.
const draftsHeld = 32 << 20

func newDrafts() *cache.Cache[draftKey, *form.Form] {
	return cache.New(draftsHeld, func(_ draftKey, f *form.Form) int {
		size := 4000
		for p := range f.Places() {
			size += 2000 + 200*len(p.Item.Choices)
		}
		for _, l := range f.Lists {
			size += 300 * len(l.Entries)
		}
		return size
	})
}

// Draft is what the draft of a form says, read once for each of its versions. It is
// shared, and must not be changed.
func (s *Store) Draft(f Form) (*form.Form, error) {
	return s.drafts.GetOrMake(draftKey{f.ID, f.DraftVersion}, f.Definition)
}

// Clash is an edit that meets one that someone else made meanwhile. Nothing was
// changed. It is an ErrConflict.
type Clash struct {
	By string // the name of the other member, or ""
}

func (c Clash) Error() string { return c.By + " has changed the same meanwhile" }

// Is makes a Clash an ErrConflict.
func (c Clash) Is(err error) bool { return err == ErrConflict }

// Edit applies an edit to the draft that was made on the draft as it was at
// version. If the draft has moved on, the edit is applied to the newest state,
// unless it touches what another has changed since: that is a Clash. It returns the
// new state.
//
// What one did oneself meanwhile is no clash: typing can be faster than the answers.
func (in InForm) Edit(ctx context.Context, version int64, member MemberID, e form.Edit) (Form, error) {
	return in.editDraft(ctx, version, member, false, e)
}

// EditWhole is Edit for an edit that was made of a whole page's fields, and so
// takes back whatever the page did not know: one's own changes elsewhere count too.
func (in InForm) EditWhole(ctx context.Context, version int64, member MemberID, e form.Edit) (Form, error) {
	return in.editDraft(ctx, version, member, true, e)
}

func (in InForm) editDraft(ctx context.Context, version int64, member MemberID, whole bool, e form.Edit) (Form, error) {
	var out edited
	err := in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		out, err = in.editIn(tx, version, member, whole, e)
		return err
	})
	if err == nil {
		in.store.remember(out)
	}
	return out.form, err
}

// EditTwo makes edits of two forms of a workspace, both or neither: what is cut out of one
// and comes into the other. The other's is made on the version that it has.
func (in InForm) EditTwo(
	ctx context.Context, version int64, member MemberID, e form.Edit, other FormID, there form.Edit,
) (Form, error) {
	var here, beyond edited
	err := in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		// In one order, so that two who do so at once do not wait for each other.
		if err := tx.Exec("select 1 from forms where workspace_id = ? and id in (?, ?) order by id for update", in.workspace,
			in.form, other).Error; err != nil {
			return err
		}
		if here, err = in.editIn(tx, version, member, false, e); err != nil {
			return err
		}
		from := InForm{in.InWorkspace, other}
		f, err := from.lock(tx)
		if err != nil {
			return err
		}
		beyond, err = from.editIn(tx, f.DraftVersion, member, false, there)
		return err
	})
	if err == nil {
		in.store.remember(here)
		in.store.remember(beyond)
	}
	return here.form, err
}

// edited is what became of a draft; its definition is nil if nothing was changed.
type edited struct {
	form Form
	def  *form.Form
}

// remember keeps the definition of a draft's newest version at hand.
func (s *Store) remember(e edited) {
	if e.def != nil {
		s.drafts.Add(draftKey{e.form.ID, e.form.DraftVersion}, e.def)
	}
}

// editIn makes an edit within a transaction, and keeps it with its inverse.
func (in InForm) editIn(tx *gorm.DB, version int64, member MemberID, whole bool, e form.Edit) (edited, error) {
	f, err := in.lock(tx)
	if err != nil {
		return edited{}, err
	}
	def, err := in.store.Draft(f)
	if err != nil {
		return edited{}, err
	}
	changed, inverse, err := form.Apply(def, e)
	touches := append(e.Touches(), inverse.Touches()...)
	if err != nil {
		touches = e.Touches()
	}
	but := member // whose steps are no clash
	if whole {
		but = 0
	}
	if clash := meets(tx, f, version, but, touches); clash != nil {
		return edited{}, clash
	}
	if err != nil {
		return edited{}, err
	}
	edit, err := json.Marshal(e)
	if err != nil {
		return edited{}, err
	}
	back, err := json.Marshal(inverse)
	if err != nil {
		return edited{}, err
	}
	// What is its own inverse changes nothing; of other edits the whole is compared.
	if bytes.Equal(edit, back) || e.Op == form.Batch && bytes.Equal(def.JSON(), changed.JSON()) {
		return edited{form: f}, nil // nothing to keep, nor to undo
	}
	if err := tx.Exec("delete from edits where form_id = ? and member_id = ? and undone", f.ID, member).Error; err != nil {
		return edited{}, err
	}
	err = tx.Exec(`insert into edits (form_id, number, member_id, edit, inverse)
		select ?, coalesce(max(number), 0) + 1, ?, ?, ? from edits where form_id = ?`, f.ID, member, JSON(edit), JSON(back), f.ID).Error
	if err != nil {
		return edited{}, err
	}
	f, err = saveDraft(tx, f, changed, member, touches)
	return edited{f, changed}, err
}

// meets reports a Clash if what is touched was touched since version by anyone but
// one member.
func meets(tx *gorm.DB, f Form, version int64, but MemberID, touches []string) error {
	if version == f.DraftVersion {
		return nil
	}
	var steps []struct {
		Touches  string // a JSON list
		Name     string
		MemberID MemberID
	}
	err := tx.Raw(`select to_json(s.touches)::text as touches, coalesce(m.name, '') as name, coalesce(s.member_id, 0) as member_id
		from draft_steps s left join members m on m.id = s.member_id
		where s.form_id = ? and s.version > ? order by s.version desc`, f.ID, version).Scan(&steps).Error
	if err != nil {
		return err
	}
	if int64(len(steps)) < f.DraftVersion-version { // older than what is known
		return Clash{}
	}
	for _, step := range steps {
		if step.MemberID == but && but != 0 {
			continue
		}
		var theirs []string
		if err := json.Unmarshal([]byte(step.Touches), &theirs); err != nil {
			return err
		}
		if form.Collide(theirs, touches) {
			return Clash{step.Name}
		}
	}
	return nil
}

// saveDraft stores the next version of a draft and what it changed.
func saveDraft(tx *gorm.DB, f Form, def *form.Form, member MemberID, touched []string) (Form, error) {
	f.Draft, f.Title, f.DraftVersion = def.JSON(), strings.TrimSpace(def.Title), f.DraftVersion+1
	f.UpdatedAt = time.Now()
	touches, err := json.Marshal(touched)
	if err != nil {
		return f, err
	}
	err = tx.Exec(`insert into draft_steps (form_id, version, member_id, touches)
		select ?, ?, nullif(?, 0), array(select json_array_elements_text(?::json))`, f.ID, f.DraftVersion, member, string(touches)).Error
	if err != nil {
		return f, err
	}
	return f, tx.Model(&Form{}).Where("id = ?", f.ID).Updates(map[string]any{
		"draft": f.Draft, "title": f.Title, "draft_version": f.DraftVersion, "updated_at": f.UpdatedAt}).Error
}

// Undo takes a member's own last edit back, Redo does it again; ErrNotFound if there
// is none. Where others have since changed what it changed, that is a Clash, and
// nothing happens unless the member is sure. Both give the draft before and after.
func (in InForm) Undo(ctx context.Context, member MemberID, sure bool) (before, after Form, err error) {
	return in.step(ctx, member, sure, true)
}

// Redo does the edit again that was taken back last.
func (in InForm) Redo(ctx context.Context, member MemberID, sure bool) (before, after Form, err error) {
	return in.step(ctx, member, sure, false)
}

// madeEdit is a row of edits.
type madeEdit struct {
	Number  int64
	Edit    []byte
	Inverse []byte
	Name    string // of who made it
}

func (in InForm) step(ctx context.Context, member MemberID, sure, undo bool) (before, after Form, err error) {
	order := map[bool]string{true: "not undone order by number desc", false: "undone order by number"}[undo]
	err = in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var err error
		if before, err = in.lock(tx); err != nil {
			return err
		}
		var row madeEdit
		if err := tx.Raw("select number, edit, inverse from edits where form_id = ? and member_id = ? and "+order+" limit 1",
			before.ID, member).Scan(&row).Error; err != nil {
			return err
		}
		if row.Number == 0 {
			return ErrNotFound
		}
		e, touches, err := row.parts(undo)
		if err != nil {
			return err
		}
		if !sure {
			if err := metSince(tx, before.ID, member, row.Number, touches); err != nil {
				return err
			}
		}
		def, err := before.Definition()
		if err != nil {
			return err
		}
		changed, back, err := form.Apply(def, e)
		if err != nil {
			return err
		}
		// What takes this step back is kept anew: others may have changed things around it.
		kept, err := json.Marshal(back)
		if err != nil {
			return err
		}
		column := map[bool]string{true: "edit", false: "inverse"}[undo]
		if err := tx.Exec("update edits set undone = ?, "+column+" = ? where form_id = ? and number = ?", undo, JSON(kept),
			before.ID,
			row.Number).Error; err != nil {
			return err
		}
		after, err = saveDraft(tx, before, changed, member, touches)
		return err
	})
	return before, after, err
}

// parts are the edit that a step makes and all that it touches.
func (m *madeEdit) parts(undo bool) (e form.Edit, touches []string, err error) {
	var edit, inverse form.Edit
	if err := json.Unmarshal(m.Edit, &edit); err != nil {
		return e, nil, err
	}
	if err := json.Unmarshal(m.Inverse, &inverse); err != nil {
		return e, nil, err
	}
	touches = append(edit.Touches(), inverse.Touches()...)
	if undo {
		return inverse, touches, nil
	}
	return edit, touches, nil
}

// metSince reports a Clash if others' edits that stand, made after one of a member's
// own, touch what it touches.
func metSince(tx *gorm.DB, formID FormID, member MemberID, number int64, touches []string) error {
	var later []madeEdit
	err := tx.Raw(`select e.number, e.edit, e.inverse, coalesce(m.name, '') as name from edits e left join members m on m.id = e.member_id
		where e.form_id = ? and e.number > ? and not e.undone and e.member_id is distinct from ? order by e.number desc`, formID, number, member).Scan(&later).Error
	if err != nil {
		return err
	}
	for _, row := range later {
		_, theirs, err := row.parts(false)
		if err != nil {
			return err
		}
		if form.Collide(theirs, touches) {
			return Clash{row.Name}
		}
	}
	return nil
}

// lookBack is how many edits LastOf looks through.
const lookBack = 500

// LastOf is the value that a property of the draft had before the newest of its last edits
// that took it away; nil if none did.
func (in InForm) LastOf(ctx context.Context, key, property string) (json.RawMessage, error) {
	var rows []madeEdit
	err := in.store.db.WithContext(ctx).
		Raw("select number, edit, inverse from edits where form_id = ? and not undone order by number desc limit ?", in.form,
			lookBack).
		Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		back, _, err := row.parts(true)
		if err != nil {
			return nil, err
		}
		if value := back.Sets(key, property); value != nil {
			return value, nil
		}
	}
	return nil, nil
}

// History counts the edits that a member can undo and redo.
func (in InForm) History(ctx context.Context, member MemberID) (undo, redo int64, err error) {
	err = in.store.db.WithContext(ctx).Table("edits").Scopes(in.ofForm).Where("member_id = ?", member).
		Select("count(*) filter (where not undone), count(*) filter (where undone)").Row().Scan(&undo, &redo)
	return undo, redo, err
}

// Presence is someone who has a draft open.
type Presence struct {
	Name string
	At   string // the key of what they have selected, or ""
}

// presentFor is how long someone counts as present after a sign of life.
const presentFor = 40 * time.Second

// Meet notes that a member has a form's draft open, with what is selected, and
// returns who else has, and the draft's version.
func (in InForm) Meet(ctx context.Context, member MemberID, at string) (others []Presence, version int64, err error) {
	db := in.store.db.WithContext(ctx)
	if err := db.Raw("select draft_version from forms where workspace_id = ? and id = ?", in.workspace,
		in.form).Scan(&version).Error; err != nil {
		return nil, 0, err
	}
	if version == 0 {
		return nil, 0, ErrNotFound
	}
	err = db.Exec(`insert into presences (form_id, member_id, at) values (?, ?, ?)
		on conflict (form_id, member_id) do update set at = excluded.at, seen_at = now()`, in.form, member, at).Error
	if err != nil {
		return nil, 0, err
	}
	err = db.Raw(`select m.name, p.at from presences p join members m on m.id = p.member_id and m.workspace_id = ?
		where p.form_id = ? and p.member_id <> ? and p.seen_at > now() - ?::interval order by m.name`,
		in.workspace, in.form, member, presentFor.String()).Scan(&others).Error
	return others, version, err
}
