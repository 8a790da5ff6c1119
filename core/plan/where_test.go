package plan_test

import (
	"testing"

	"lucidletter/core/plan"
)

func TestWhereOf(t *testing.T) {
	for name, c := range map[string]struct {
		args         [5]string
		mine, theirs string
		country      string
		known        bool
	}{
		"both":              {[5]string{"Europe/London", "GB", "Asia/Tokyo", "JP", ""}, "Europe/London", "Asia/Tokyo", "JP", true},
		"by the country":    {[5]string{"Europe/London", "GB", "", "JP", ""}, "Europe/London", "Asia/Tokyo", "JP", true},
		"nothing of theirs": {[5]string{"Europe/London", "GB", "", "", ""}, "Europe/London", "Europe/London", "GB", false},
		"nothing of mine":   {[5]string{"", "", "Asia/Tokyo", "JP", ""}, "Asia/Tokyo", "Asia/Tokyo", "JP", true},
		"nothing":           {[5]string{"", "", "", "", ""}, "UTC", "UTC", "", false},
		"chosen":            {[5]string{"Europe/London", "GB", "Asia/Tokyo", "JP", "Europe/Madrid"}, "Europe/Madrid", "Europe/Madrid", "JP", true},
		"chosen, unknown":   {[5]string{"Europe/London", "GB", "Asia/Tokyo", "JP", "Europe/Nowhere"}, "Europe/London", "Asia/Tokyo", "JP", true},
	} {
		w, known := plan.WhereOf(c.args[0], c.args[1], c.args[2], c.args[3], c.args[4])
		if w.Mine.Zone.String() != c.mine || w.Theirs.Zone.String() != c.theirs || w.Theirs.Country != c.country || known != c.known {
			t.Errorf("%s: %+v %+v %t", name, w.Mine, w.Theirs, known)
		}
	}
}
