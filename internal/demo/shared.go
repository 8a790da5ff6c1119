package demo

import (
	"crypto/sha256"
	"encoding/hex"

	"lucidletter/core/markup"
	"lucidletter/internal/domain"
)

// shared makes what the leads keep for everybody: stationery, passages, approved
// documents, lists.
func (m *maker) shared() error {
	lead := m.ids[4]
	made := m.today.AddDate(0, 0, -230)
	for _, st := range []struct {
		name, header, footer, background string
		ready, standard                  bool
	}{
		{
			"House", `<p><b><span color="#1f4d3a" size="20">Fernhollow Cold Rooms</span></b></p><hr>`,
			`<hr><p><span color="#5a6154" size="13">{{sender.full_name}}{{#sender.job_title}}, {{sender.job_title}}{{/sender.job_title}}<br>Fernhollow Cold Rooms, 7 Ice House Lane, Harrowmere HM2 6FR<br><a href="https://fernhollow.example">fernhollow.example</a></span></p>`,
			"", true, true,
		},
		{
			"Open workshop", `<h2 align="center"><span color="#1f4d3a">Open workshop</span></h2>`,
			`<p align="center"><span color="#5a6154" size="13">Fernhollow Cold Rooms, Harrowmere</span></p>`, "#eef2ec", true, false,
		},
		{"Winter, being made", `<p>Winter</p>`, `<p></p>`, "", false, false},
	} {
		header, err := markup.ParseMarkup(st.header)
		if err != nil {
			return err
		}
		footer, err := markup.ParseMarkup(st.footer)
		if err != nil {
			return err
		}
		header.Attrs.Background = st.background
		if _, err := m.s.AddStationery(m.ctx, domain.Stationery{Name: st.name, Header: header, Footer: footer, Ready: st.ready, Default: st.standard, UpdatedAt: made, UpdatedBy: lead}); err != nil {
			return err
		}
	}
	for _, p := range []struct{ name, shortcut, body string }{
		{"Opening hours of the workshop", "hours", "The workshop is open on working days from eight to five, on Fridays until two."},
		{"How to find us", "way", "You’ll find us at 7 Ice House Lane in Harrowmere, behind the old ice house; the yard has room for a van."},
		{"What a survey is", "survey", "A survey takes an hour and costs nothing. We measure the room, look at the power supply, and leave a drawing with you."},
	} {
		if _, err := m.s.AddPassage(m.ctx, domain.Passage{Name: p.name, Shortcut: p.shortcut, Body: markup.Parse(p.body), OwnerID: lead, CreatedAt: made, UpdatedAt: made, UpdatedBy: lead}); err != nil {
			return err
		}
	}
	for _, d := range []struct{ name, purpose, file string }{
		{"Terms of delivery", "With every quote", "terms.pdf"},
		{"Sizes of panels", "When somebody asks what fits", "panel-sizes.pdf"},
	} {
		content, err := data.ReadFile("data/" + d.file)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(content)
		f := domain.File{SHA: hex.EncodeToString(sum[:]), Type: "application/pdf", Size: len(content), Bytes: content, CreatedAt: made}
		if err := m.s.AddFile(m.ctx, f); err != nil {
			return err
		}
		if _, err := m.s.AddDocument(m.ctx, domain.SharedDocument{Name: d.name, Purpose: d.purpose, FileName: d.file, SHA: f.SHA, OwnerID: lead, Version: 1, UpdatedAt: made, UpdatedBy: lead}); err != nil {
			return err
		}
	}
	for _, l := range []domain.List{
		{Name: "Leads to write to again", Filter: `kind is "lead" and written is filled and written not in last 30 days and answered is missing`, Sort: "last"},
		{Name: "Quotes to follow up", Filter: `deal.stage is "quoted" and written not in last 14 days`},
		{Name: "No first name", Filter: "person.first_name is missing", Sort: "name"},
	} {
		l.OwnerID, l.Shared, l.CreatedAt = lead, true, made
		if _, err := m.s.AddList(m.ctx, l); err != nil {
			return err
		}
	}
	return nil
}
