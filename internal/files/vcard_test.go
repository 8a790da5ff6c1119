package files

import (
	"fmt"
	"strings"
	"testing"
)

// cards reads cards as lines of their filled cells.
func cards(t *testing.T, text string) []string {
	t.Helper()
	table, err := OpenPeople(strings.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for row := range table.Rows {
		if row.Err != nil {
			out = append(out, row.Err.Error())
			continue
		}
		var filled []string
		for _, c := range row.Cells {
			if c != "" {
				filled = append(filled, c)
			}
		}
		out = append(out, strings.Join(filled, "|"))
	}
	return out
}

func TestOpenVCard(t *testing.T) {
	for name, row := range map[string]struct{ in, want string }{
		// The example of RFC 6350 section 8, with another name, place and company.
		"RFC 6350 section 8": {"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ada Quill\r\nN:Quill;Ada;;;ing. jr,M.Sc.\r\nBDAY:--0203\r\nANNIVERSARY:20090808T1430-0500\r\nGENDER:M\r\nLANG;PREF=1:fr\r\nLANG;PREF=2:en\r\n" +
			"ORG;TYPE=work:Quillworks\r\nADR;TYPE=work:;Suite D2-630;2875 Mill Lane;\r\n Harrowmere;HM;G1V 2M2;Canada\r\nTEL;VALUE=uri;TYPE=\"work,voice\";PREF=1:tel:+44-20-7946-0155;ext=102\r\nTEL;VALUE=uri;TYPE=\"work,cell,voice,video,text\":tel:+44-20-7946-0156\r\n" +
			"EMAIL;TYPE=work:ada@quill.example\r\nGEO;TYPE=work:geo:46.772673,-71.282945\r\nKEY;TYPE=work;VALUE=uri:\r\n http://www.quill.example/ada.asc\r\nTZ:-0500\r\nURL;TYPE=home:http://quill.example/ada\r\nEND:VCARD\r\n",
			"Ada|Quill|ada@quill.example|+44-20-7946-0155|Quillworks|Harrowmere|Canada|fr"},
		// RFC 2426 section 7, with another name.
		"RFC 2426 section 7": {"BEGIN:vCard\nVERSION:3.0\nFN:Bo Stone\nORG:Stone Dairy\nADR;TYPE=WORK,POSTAL,PARCEL:;;6544 Mill Drive\n ;Lower Fenby;NC;27613-3502;U.S.A.\nTEL;TYPE=VOICE,MSG,WORK:+1-555-0155-9515\nEMAIL;TYPE=INTERNET,PREF:bo@stone.example\nEMAIL;TYPE=INTERNET:bo@other.example\nURL:http://stone.example\nEND:vCard\n",
			"Bo|Stone|bo@stone.example|+1-555-0155-9515|Stone Dairy|Lower Fenby|U.S.A."},
		"2.1, quoted-printable over two lines, a picture": {"BEGIN:VCARD\r\nVERSION:2.1\r\nN;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:M=C3=BCller;J=\r\n=C3=BCrgen;;Dr.\r\nTITLE;QUOTED-PRINTABLE;CHARSET=ISO-8859-1:K=FCche\r\nTEL;CELL;VOICE:+49 30 123456\r\nEMAIL;INTERNET;PREF:jm@mueller.example\r\nPHOTO;JPEG;ENCODING=BASE64:\r\n /9j/4AAQSkZJRgABAQAAAQABAAD\r\n /2wBDAAUDBAQEAwUEBAQFBQUGBww=\r\n\r\nORG:Bäckerei;Backstube\r\nEND:VCARD\r\n",
			"Dr.|Jürgen|Müller|jm@mueller.example|+49 30 123456|Küche|Bäckerei"},
		"a group, a time zone, escapes":     {"BEGIN:VCARD\nVERSION:4.0\nitem1.EMAIL;PREF=1:ada@quill.example\nN:Qu\\;ill\\, the;Ada;;;\nTZ:Europe/London\nTITLE:Owner\\nand founder\nEND:VCARD", "Ada|Qu;ill, the|ada@quill.example|Owner and founder|Europe/London"},
		"only FN":                           {"BEGIN:VCARD\nVERSION:4.0\nFN:Ada van der Quill\nEND:VCARD", "Ada van der|Quill"},
		"cut off":                           {"BEGIN:VCARD\nVERSION:4.0\nFN:Ada", "card: is not closed by END:VCARD; it may have been cut off"},
		"empty":                             {"BEGIN:VCARD\nVERSION:4.0\nEND:VCARD", ""},
		"one cut off, the next is whole":    {"BEGIN:VCARD\nFN:A\nBEGIN:VCARD\nVERSION:3.0\nFN:Bo Stone\nEND:VCARD", "card: is not closed by END:VCARD; it may have been cut off\nBo|Stone"},
		"Windows-1252":                      {"BEGIN:VCARD\nVERSION:3.0\nN:O\x92Neil;Zo\xeb;;;\nEND:VCARD", "Zoë|O’Neil"},
		"a line without end in 100,000":     {"BEGIN:VCARD\nVERSION:3.0\nFN:Ada Quill\nNOTE:" + strings.Repeat("x", 100_000) + "\nEND:VCARD", "Ada|Quill"},
		"parameters with a colon in quotes": {"BEGIN:VCARD\nVERSION:4.0\nEMAIL;LABEL=\"at: work\":ada@quill.example\nEND:VCARD", "ada@quill.example"},
	} {
		if got := strings.Join(cards(t, row.in), "\n"); got != row.want {
			t.Errorf("%s: %q, want %q", name, got, row.want)
		}
	}
	if _, err := OpenPeople(strings.NewReader("BEGIN:VCARD\n" + strings.Repeat("x", MaxCards))); err == nil || !strings.Contains(err.Error(), "larger than 20 MiB") {
		t.Errorf("too large: %v", err)
	}
}

// Whatever the bytes, cards are read or refused one by one.
func FuzzOpenVCard(f *testing.F) {
	f.Add("BEGIN:VCARD\r\nVERSION:2.1\r\nN;ENCODING=QUOTED-PRINTABLE:M=C3=\r\n=BC;J;;\r\nEND:VCARD")
	f.Fuzz(func(t *testing.T, text string) {
		table, err := OpenVCard(strings.NewReader("BEGIN:VCARD\r\n" + text))
		if err != nil {
			t.Fatal(err)
		}
		n := 0
		for row := range table.Rows {
			if len(row.Cells) != len(cardColumns) {
				t.Errorf("%d cells", len(row.Cells))
			}
			n++
		}
		if n == 0 {
			t.Error("a card was lost")
		}
	})
}

// Lines that go on for ever, folded or by soft breaks, take a time that grows with them:
// go test ./internal/files -run - -bench VCard_grows
func BenchmarkVCard_grows(b *testing.B) {
	for name, line := range map[string]string{"folded": " x\r\n", "soft breaks": "x=\r\n", "parameters": ";a=b"} {
		for _, mb := range []int{1, 2, 4} {
			raw := "BEGIN:VCARD\r\nVERSION:2.1\r\nFN:Ada\r\nNOTE;ENCODING=QUOTED-PRINTABLE:=\r\n" + strings.Repeat(line, mb<<20/len(line)) + "\r\nEND:VCARD\r\n"
			if name == "parameters" {
				raw = "BEGIN:VCARD\r\nVERSION:2.1\r\nFN:Ada\r\nNOTE" + strings.Repeat(line, mb<<20/len(line)) + ":x\r\nEND:VCARD\r\n"
			}
			b.Run(fmt.Sprintf("%s/%dMB", name, mb), func(b *testing.B) {
				b.SetBytes(int64(len(raw)))
				for b.Loop() {
					table, err := OpenVCard(strings.NewReader(raw))
					if err != nil {
						b.Fatal(err)
					}
					for range table.Rows {
					}
				}
			})
		}
	}
}

// What is too long for a value is left out; the rest of the card is read.
func TestOpenVCard_longLines(t *testing.T) {
	raw := "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ada Quill\r\nPHOTO;ENCODING=b:" + strings.Repeat("/9j4\r\n ", 40_000) + "\r\nEMAIL:ada@\r\n quill.example\r\nEND:VCARD\r\n"
	table, err := OpenVCard(strings.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	for row := range table.Rows {
		if row.Err != nil || row.Cells[1] != "Ada" || row.Cells[2] != "Quill" || row.Cells[3] != "ada@quill.example" {
			t.Errorf("%+v", row)
		}
	}
}
