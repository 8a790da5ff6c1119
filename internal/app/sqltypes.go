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
