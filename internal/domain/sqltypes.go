package domain

import (
	"database/sql/driver"
	"encoding/json"
	"fmt"
)

func toJSON(v any) (driver.Value, error) {
	data, err := json.Marshal(v)
	return string(data), err
}

func fromJSON(src, into any) error {
	switch v := src.(type) {
	case string:
		return json.Unmarshal([]byte(v), into)
	case []byte:
		return json.Unmarshal(v, into)
	}
	return fmt.Errorf("%T is stored as %T", into, src)
}

// Value writes own fields as JSON.
func (o Own) Value() (driver.Value, error) {
	if len(o) == 0 {
		return "{}", nil
	}
	return toJSON(map[string]string(o))
}

// Scan reads own fields from JSON.
func (o *Own) Scan(src any) error {
	if src == nil || src == "{}" { // as most are
		*o = Own{}
		return nil
	}
	return fromJSON(src, (*map[string]string)(o))
}

// Stretches are pieces of wording, stored as JSON.
type Stretches []string

// Value writes stretches as JSON.
func (s Stretches) Value() (driver.Value, error) {
	if len(s) == 0 {
		return "[]", nil
	}
	return toJSON([]string(s))
}

// Scan reads stretches from JSON.
func (s *Stretches) Scan(src any) error { return fromJSON(src, (*[]string)(s)) }
