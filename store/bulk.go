package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"
)

// BulkChange is a change of many responses at once, to be taken back as one.
type BulkChange struct {
	ID          int64
	WorkspaceID WorkspaceID
	FormID      FormID
	MemberID    MemberID
	Says        string // what was done, in words
	MadeAt      time.Time
	Changed     Changed `gorm:"type:jsonb;serializer:json"`
}

// Changed is what a change of many did to one question of each: by response, what was
// there and what is.
type Changed struct {
	Key       string                        `json:"key"`
	Responses map[string][2]json.RawMessage `json:"responses"`
}

// KeepBulk keeps a change of many as the member's last one.
func (in InForm) KeepBulk(ctx context.Context, c BulkChange) error {
	c.WorkspaceID, c.FormID, c.MadeAt = in.workspace, in.form, time.Now()
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := in.dropBulk(tx, c.MemberID); err != nil {
			return err
		}
		return tx.Create(&c).Error
	})
}

func (in InForm) dropBulk(tx *gorm.DB, member MemberID) error {
	return tx.Scopes(in.ofForm).Where("member_id = ?", member).Delete(&BulkChange{}).Error
}

// LastBulk is the member's last change of many of the form; ErrNotFound for none.
func (in InForm) LastBulk(ctx context.Context, member MemberID) (BulkChange, error) {
	var c BulkChange
	return c, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("member_id = ?", member).Last(&c).Error)
}

// DropBulk forgets the member's last change of many.
func (in InForm) DropBulk(ctx context.Context, member MemberID) error {
	return in.dropBulk(in.store.db.WithContext(ctx), member)
}
