package main

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// command runs the program's command line in a folder of the test's.
func command(t *testing.T, folder map[string]string, args ...string) (out, errs string, code int) {
	t.Helper()
	dir := t.TempDir()
	for name, text := range folder {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	t.Chdir(dir)
	var stdout, stderr bytes.Buffer
	cmd := root()
	cmd.SetArgs(args)
	cmd.SetOut(&stdout)
	cmd.SetErr(&stderr)
	err := cmd.ExecuteContext(context.Background())
	if err != nil {
		stderr.WriteString(err.Error())
		code = status(err)
	}
	if made, _ := filepath.Glob("letters/*.eml"); len(made) > 0 {
		for _, name := range made {
			raw, err := os.ReadFile(name)
			if err != nil {
				t.Fatal(err)
			}
			stdout.WriteString(name + "\n" + string(raw))
		}
	}
	return stdout.String(), stderr.String(), code
}

const data = `{"person": {"first_name": "Ada", "last_name": "Quill", "email": "ada@quill.example", "language": "de-DE"},
 "deal": {"amount": "12500.00 EUR", "close_date": "2026-03-02", "own": {"volume": 12.5}}, "sender": {"full_name": "Imre Falk", "email": "imre@fernhollow.example"}}`

func TestMerge_commandLine(t *testing.T) {
	one := func(template string) map[string]string {
		return map[string]string{"t.txt": template, "t.html": template, "t.json": template, "people.json": data, "people.csv": "person.first_name,Last name\nAda,Quill\nBo,\n"}
	}
	base := []string{"merge", "--template", "t.txt", "--data", "people.json", "--format", "text"}
	for _, row := range []struct {
		name, template string
		args           []string
		out, errs      string
		code           int
	}{
		{"text", "Dear {{person.first_name}},\n{{deal.amount}}", base, "Dear Ada,\n12.500,00\u00a0€", "", 0},
		{"locale", "{{deal.close_date}}", append(base, "--locale", "en-GB"), "2 March 2026", "", 0},
		{"today", "{{today as plain}}{{#deal.close_date < today}} late{{/deal.close_date}}", append(base, "--today", "2026-03-05"), "2026-03-05 late", "", 0},
		{"own field", "{{deal.own.volume}} {{team.own.event|soon}}", base, "12,5 soon", "", 0},
		{"blank", "{{?why: text}}", append(base, "--blank", "why=because"), "because", "", 0},
		{"blank left", "{{?why: text}}", base, "", "?why is missing", 4},
		{"no such blank", "x", append(base, "--blank", "why=x"), "", "no blank \"why\"", 1},
		{"missing", "{{person.city}}.", base, "", "record 1: person.city is missing", 4},
		{"missing as nothing", "{{person.city}}.", append(base, "--missing", "empty"), ".", "person.city is missing", 0},
		{"red note", "a\n {{person.cty}}", base, "", "t.txt:2:2: There is no field person.cty", 3},
		{"check", "a\n {{person.cty}}", []string{"check", "--template", "t.txt"}, "t.txt:2:2: There is no field person.cty; did you mean person.city", "red notes", 3},
		{"check well", "{{person.own.x}}", []string{"check", "--template", "t.txt"}, "", "", 0},
		{"html", `<a href="https://x.example/?q={{person.last_name}}">{{person.first_name}} & {{company.name|<b>}}</a>`, []string{"merge", "--template", "t.html", "--data", "people.json", "--format", "html"}, `<a href="https://x.example/?q=Quill">Ada & &lt;b&gt;</a>`, "", 0},
		{"html script", "<script>{{person.first_name}}</script>", []string{"merge", "--template", "t.html", "--data", "people.json", "--format", "html"}, "", "cannot be made safe", 3},
		{"json template", `{"subject": "Hi {{person.first_name}}", "body": "x"}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "json"}, `"subject": "Hi Ada"`, "", 0},
		{"csv to json", "{{person.full_name}} {{person.last_name|-}}", []string{"merge", "--template", "t.txt", "--data", "people.csv", "--format", "json"}, `"text": "Bo -"`, "", 0},
		{"formatted to html", `{"subject": "Hi {{person.first_name}}", "kind": "formatted", "body": "<p>Dear <b>{{person.first_name}}</b> &amp; co</p>"}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "html"}, `<p style="margin:0 0 16px">Dear <strong>Ada</strong> &amp; co</p>`, "", 0},
		{"formatted to text", `{"kind": "formatted", "body": "<ul><li><p>{{person.first_name}}</p></li></ul>"}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "text"}, "- Ada", "", 0},
		{"stored form", `{"subject": "x", "body": {"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"heading","attrs":{"level":1},"content":[{"type":"field","attrs":{"path":"person.first_name"}}]}]}}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "text"}, "Ada", "", 0},
		{"formatted, missing as nothing", `{"kind": "formatted", "body": "<p>a {{person.city}} b</p>"}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "text", "--missing", "empty"}, "a  b", "person.city is missing", 0},
		{"bad markup", `{"kind": "formatted", "body": "<p>a</p>\n<video>"}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "text"}, "", "t.json:2:1: <video> is no block", 3},
		{"no such kind", `{"kind": "fancy", "body": "x"}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "text"}, "", "\"fancy\" is not a kind of body", 1},
		{"bad stored form", `{"body": {"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"video"}]}}`, []string{"merge", "--template", "t.json", "--data", "people.json", "--format", "text"}, "", "content[0]: unknown node", 1},
		{"formatted note", `{"kind": "formatted", "body": "<p>{{person.cty}}</p>"}`, []string{"check", "--template", "t.json"}, "t.json (content[0]):1:4: There is no field", "red notes", 3},
		{"page to text", "<h1>{{person.first_name}}</h1><p>a<br>b</p>", []string{"merge", "--template", "t.html", "--data", "people.json", "--format", "text"}, "Ada\n\na\nb", "", 0},
		{"page as mail", "<p>{{person.first_name}}</p><script>x</script>", []string{"merge", "--template", "t.html", "--subject", "Hi", "--data", "people.json", "--format", "eml"}, "multipart/alternative", "", 0},
		{"plain to html", "x", []string{"merge", "--template", "t.txt", "--data", "people.json", "--format", "html"}, "", "use --format text", 1},
		{"several to text", "x", []string{"merge", "--template", "t.txt", "--data", "people.csv", "--format", "text"}, "", "2 records", 1},
		{"eml", "Dear {{person.first_name}}", []string{"merge", "--template", "t.txt", "--subject", "Hi", "--data", "people.json", "--out", "letters"}, "letters/1.eml\nDate: ", "", 0},
		{"eml without address", "x", []string{"merge", "--template", "t.txt", "--data", "people.csv", "--out", "letters"}, "", "record 1: \"\" is not an email address", 1},
		{"nowhere", "x", []string{"merge", "--template", "t.txt", "--data", "people.json"}, "", "say where the letters go", 1},
		{"not there", "x", []string{"merge", "--template", "u.txt", "--data", "people.json", "--format", "text"}, "", "u.txt", 1},
	} {
		out, errs, code := command(t, one(row.template), row.args...)
		exact := row.code != 0 || row.args[0] != "merge" || strings.Contains(strings.Join(row.args, " "), "--format text")
		if strings.Contains(out, "<script>") {
			t.Errorf("%s: a script was sent", row.name)
		}
		if code != row.code || !strings.Contains(errs, row.errs) || !strings.Contains(out, row.out) || exact && row.args[0] == "merge" && out != row.out {
			t.Errorf("%s: status %d, %q, %q", row.name, code, out, errs)
		}
	}
}

func TestMerge_badData(t *testing.T) {
	for text, why := range map[string]string{
		"{":                                    "is not JSON",
		"[1]":                                  "record 1: is not an object",
		`{"person": {"first_name": ["a"]}}`:    "is a list",
		`{"person": {"frist_name": "a"}}`:      "did you mean person.first_name",
		`{"deal": {"amount": 5}}`:              "deal.amount: \"5\" is not an amount",
		`{"person": {"first_name": "a\nb"}}`:   "holds a line break",
		`{"person": {"first_name": "a"}} more`: "behind its end",
	} {
		_, errs, code := command(t, map[string]string{"t.txt": "x", "p.json": text}, "merge", "--template", "t.txt", "--data", "p.json", "--format", "text")
		if code != 1 || !strings.Contains(errs, why) {
			t.Errorf("%s: %d %q, want %q", text, code, errs, why)
		}
	}
}

// The examples of docs/format.md, as they stand there.
func TestMerge_examplesOfTheDocuments(t *testing.T) {
	doc, err := os.ReadFile("../../docs/format.md")
	if err != nil {
		t.Fatal(err)
	}
	ran := 0
	for example := range strings.SplitSeq(string(doc), "\n\n") {
		if !strings.HasPrefix(example, "    file ") {
			continue
		}
		ran++
		folder := map[string]string{}
		var args, want []string
		last := ""
		for line := range strings.SplitSeq(example, "\n") {
			line = strings.TrimPrefix(line, "    ")
			name, text, _ := strings.Cut(strings.TrimPrefix(line, "file "), ": ")
			switch {
			case strings.HasPrefix(line, "file "):
				folder[name], last = text, name
			case strings.HasPrefix(line, "+ "):
				folder[last] += "\n" + line[2:]
			case line == "+": // an empty line of what is printed
				want = append(want, "")
			case strings.HasPrefix(line, "$ lucidletter "):
				args = strings.Fields(line)[2:]
			default:
				want = append(want, line)
			}
		}
		out, errs, _ := command(t, folder, args...)
		if strings.TrimSuffix(out, "\n") != strings.Join(want, "\n") {
			t.Errorf("%s\ngot  %q (%s)\nwant %q", example, out, errs, want)
		}
	}
	if ran < 4 {
		t.Errorf("only %d examples were found", ran)
	}
}
