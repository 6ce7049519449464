package store

import (
	"database/sql/driver"
	"fmt"
)

// JSON is a text of JSON as a column of that type holds it; nil is null there. Bytes by
// themselves would be sent as binary data wherever the types of a statement are not asked
// for before, as on shared connections (see [OpenShared]).
type JSON []byte

// Value sends it as a text.
func (j JSON) Value() (driver.Value, error) {
	if j == nil {
		return nil, nil
	}
	return string(j), nil
}

// Scan reads what the database holds.
func (j *JSON) Scan(from any) error {
	switch data := from.(type) {
	case nil:
		*j = nil
	case string:
		*j = JSON(data)
	case []byte:
		*j = append(JSON{}, data...)
	default:
		return fmt.Errorf("%T is no JSON", from)
	}
	return nil
}
