package store

import (
	"encoding/json"
	"errors"

	"github.com/jackc/pgx/v5/pgconn"
)

// orNull is a map as JSON; null for an empty one.
func orNull[K comparable, V any](m map[K]V) JSON {
	if len(m) == 0 {
		return nil
	}
	data, err := json.Marshal(m)
	if err != nil {
		return nil // only texts and numbers are in it
	}
	return data
}

// orNullList is a list as JSON; null for an empty one.
func orNullList(list []string) JSON {
	if len(list) == 0 {
		return nil
	}
	return JSON(jsonOf(list))
}

// noPlaces is what the database raises when a choice has no place left; see the migration.
const noPlaces = "LZ001"

func isNoPlaces(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == noPlaces
}
