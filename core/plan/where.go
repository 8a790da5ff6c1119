package plan

import "time"

// WhereOf gives the places that dates go by: the recipient's, from the record or the country,
// and the sender's. Where one is not known the other stands for it, UTC for both; known tells
// whether the recipient's is. A zone that was chosen counts for both. Countries come as codes.
func WhereOf(myZone, myCountry, theirZone, theirCountry, chosen string) (w Where, known bool) {
	w.Mine = Place{Zone: Zone(myZone, myCountry), Country: myCountry}
	w.Theirs = Place{Zone: Zone(theirZone, theirCountry), Country: theirCountry}
	if z := Zone(chosen, ""); chosen != "" && z != nil {
		w.Theirs.Zone, w.Mine.Zone = z, z
	}
	known = w.Theirs.Zone != nil
	for _, pair := range [][2]*Place{{&w.Theirs, &w.Mine}, {&w.Mine, &w.Theirs}} {
		if pair[0].Zone == nil {
			pair[0].Zone = pair[1].Zone
		}
		if pair[0].Country == "" {
			pair[0].Country = pair[1].Country
		}
	}
	if w.Theirs.Zone == nil {
		w.Theirs.Zone, w.Mine.Zone = time.UTC, time.UTC
	}
	return w, known
}
