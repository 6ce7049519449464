package store

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/jackc/pgx/v5/pgconn"

	"lazo/core/engine"
)

// Takes are the places that a response takes, by question and choice.
type Takes map[string]map[string]Take

// Take is how many places of a choice a response takes, and how many all may take; Most is
// nil where the workspace goes beyond.
type Take struct {
	N    int
	Most *int
}

// MarshalJSON writes a pair: [1, 12].
func (t Take) MarshalJSON() ([]byte, error) { return json.Marshal([]any{t.N, t.Most}) }

// TakesOf are the places that an accepted outcome takes.
func TakesOf(out *engine.Outcome) Takes {
	got := Takes{}
	for item, choices := range out.Takes() {
		got[item] = map[string]Take{}
		for choice, t := range choices {
			got[item][choice] = Take{N: t.N, Most: &t.Of}
		}
	}
	return got
}

// LabelsOf are what an outcome's picks from lists of the workspace read, as a response
// keeps them; nil for none.
func LabelsOf(out *engine.Outcome) ([]byte, error) {
	labels := out.Labels()
	if len(labels) == 0 {
		return nil, nil
	}
	return json.Marshal(labels)
}

// column is what is stored; nil for none.
func (t Takes) column() []byte {
	if len(t) == 0 {
		return nil
	}
	data, err := json.Marshal(t)
	if err != nil {
		return nil // only numbers are in it
	}
	return data
}

// noPlaces is what the database raises when a choice has no place left; see the migration.
const noPlaces = "LZ001"

func isNoPlaces(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == noPlaces
}

// Taken is how many responses hold each choice that has places, by question and choice.
func (in InForm) Taken(ctx context.Context) (map[string]map[string]int, error) {
	rows, err := in.store.pool.Query(ctx, `select item, choice, taken from places_taken p join forms f on f.id = p.form_id
		where f.id = $1 and f.workspace_id = $2`, in.form, in.workspace)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]map[string]int{}
	for rows.Next() {
		var item, choice string
		var n int
		if err := rows.Scan(&item, &choice, &n); err != nil {
			return nil, err
		}
		if out[item] == nil {
			out[item] = map[string]int{}
		}
		out[item][choice] = n
	}
	return out, rows.Err()
}
