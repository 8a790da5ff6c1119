package app

import (
	"database/sql/driver"
	"encoding/json"
	"fmt"
)

// Value writes own fields as JSON.
func (o Own) Value() (driver.Value, error) {
	if len(o) == 0 {
		return "{}", nil
	}
	data, err := json.Marshal(map[string]string(o))
	return string(data), err
}

// Scan reads own fields from JSON.
func (o *Own) Scan(src any) error {
	switch v := src.(type) {
	case string:
		return json.Unmarshal([]byte(v), (*map[string]string)(o))
	case []byte:
		return json.Unmarshal(v, (*map[string]string)(o))
	case nil:
		*o = Own{}
		return nil
	}
	return fmt.Errorf("own fields are stored as %T", src)
}

// Stretches are pieces of wording, stored as JSON.
type Stretches []string

// Value writes stretches as JSON.
func (s Stretches) Value() (driver.Value, error) {
	if len(s) == 0 {
		return "[]", nil
	}
	data, err := json.Marshal([]string(s))
	return string(data), err
}

// Scan reads stretches from JSON.
func (s *Stretches) Scan(src any) error {
	text, ok := src.(string)
	if !ok {
		return fmt.Errorf("stretches are stored as %T", src)
	}
	return json.Unmarshal([]byte(text), (*[]string)(s))
}
