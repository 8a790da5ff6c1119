package main

import (
	"lucidletter/core/field"
	"lucidletter/core/preflight"
	"lucidletter/core/safehtml"
)

// reach looks at 100,000 records beside merging them.
func reach() {
	program, _, reader := ours(wording(func(p string) string { return "{{" + p + "}}" }))
	cat := field.New(nil)
	records := make([]*field.Values, 100)
	for i := range records {
		v := cat.NewValues()
		v.Kind = field.Contact
		for k, p := range paths {
			if (i+k)%7 != 0 {
				v.Set(p, field.Of(values[k]))
			}
		}
		records[i] = v
	}
	const many = 100_000
	buf := make([]byte, 0, 4096)
	sides := []side{
		{"merging 100,000 records", func(n int) {
			for range n {
				for i := range many {
					buf, _ = program.AppendBody(buf[:0], records[i%len(records)], nil, reader, safehtml.AsText)
				}
			}
		}},
		{"reach over 100,000 records", func(n int) {
			for range n {
				r := preflight.Reach{Program: program}
				for i := range many {
					r.Add(int64(i), records[i%len(records)], false)
				}
			}
		}},
	}
	ratio, nanos := ratios(sides...)
	table("reach", sides, ratio, nanos)
	aim("reach-by-merging", ratio[1], "<=", 2)
}
