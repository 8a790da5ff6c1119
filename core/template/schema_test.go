package template_test

import (
	"encoding/json"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

// The JSON Schema of the stored form (draft 2020-12), made from the same rules
// that ParseJSON follows, for those who read docs/document.schema.json.
const schemaFile = "../../docs/document.schema.json"

type object = map[string]any

var contexts = map[string][]document.NodeType{
	"lines": document.LineBlocks, "cellBlocks": document.CellBlocks, "columnBlocks": document.ColBlocks, "topBlocks": document.TopBlocks, "inlines": document.InlineTypes,
	"itemList": {document.ListItem}, "rowList": {document.TableRow}, "cellList": {document.TableHeading, document.TableCell}, "columnList": {document.Column},
}

func contextOf(list []document.NodeType) string {
	for name, types := range contexts {
		if slices.Equal(types, list) {
			return name
		}
	}
	panic("a list of nodes without a name")
}

func attrSchema(name string) object {
	text, color := object{"type": "string"}, object{"type": "string", "pattern": "^(#[0-9A-Fa-f]{6})?$"}
	whole := func(to int) object { return object{"type": "integer", "minimum": 0, "maximum": to} }
	switch name {
	case "missing":
		return object{"enum": []any{"", document.MustBe, document.Instead, document.Leave}}
	case "align":
		return object{"enum": []any{"", "left", "center", "right", "justify"}}
	case "not", "optional":
		return object{"type": "boolean"}
	case "literals", "choices":
		return object{"type": "array", "items": text}
	case "level":
		return object{"enum": []any{1, 2, 3}}
	case "start":
		return whole(100000)
	case "width":
		return whole(1200)
	case "height":
		return whole(200)
	case "colspan":
		return whole(40)
	case "rowspan":
		return whole(100)
	case "color":
		return color
	case "colwidth":
		return object{"type": "array", "items": object{"type": "integer", "minimum": 0}}
	case "gaps":
		return object{"type": "array", "items": object{"$ref": "#/$defs/gapAttrs"}}
	}
	return text
}

func nodeSchema(t document.NodeType, context string) object {
	rule := document.Rules[t]
	properties, required := object{"type": object{"const": t}}, []any{"type"}
	attrs, needed := object{}, []any{}
	for i, name := range document.AttrNames {
		if rule.May&(1<<i) != 0 {
			attrs[name] = attrSchema(name)
		}
		if rule.Must&(1<<i) != 0 {
			needed = append(needed, name)
		}
	}
	properties["attrs"] = object{"type": "object", "properties": attrs, "required": needed, "additionalProperties": false}
	if len(needed) > 0 {
		required = append(required, "attrs")
	}
	holds := rule.Holds
	if rule.Same {
		holds = contexts[context]
	}
	if holds != nil {
		content := object{"$ref": "#/$defs/" + contextOf(holds)}
		if rule.Min > 0 {
			content["minItems"] = rule.Min
			required = append(required, "content")
		}
		if rule.Max > 0 {
			content["maxItems"] = rule.Max
		}
		properties["content"] = content
	}
	if t == document.Text {
		properties["text"] = object{"type": "string", "pattern": "^[^\\n\\r]*$"}
	}
	if slices.Contains(document.InlineTypes, t) {
		properties["marks"] = object{"type": "array", "items": object{"$ref": "#/$defs/mark"}}
	}
	return object{"type": "object", "properties": properties, "required": required, "additionalProperties": false}
}

func markSchema() object {
	text, color := object{"type": "string"}, object{"type": "string", "pattern": "^(#[0-9A-Fa-f]{6})?$"}
	fonts := []any{""}
	for name := range document.Fonts {
		fonts = append(fonts, name)
	}
	slices.SortFunc(fonts, func(a, b any) int { return strings.Compare(a.(string), b.(string)) })
	one := func(name string, required []any, attrs object) object {
		o := object{"type": "object", "properties": object{"type": object{"const": name}, "attrs": object{"type": "object", "properties": attrs, "required": required, "additionalProperties": false}},
			"required": []any{"type"}, "additionalProperties": false}
		if len(required) > 0 {
			o["required"] = []any{"type", "attrs"}
		}
		return o
	}
	none := []any{}
	return object{"anyOf": []any{
		one(document.Merged, none, object{"path": text, "place": text}), one(document.FixedMark, none, object{}), one(document.LeftOut, none, object{"path": text, "place": object{"enum": []any{"", "before", "passage"}}}), one(document.Bold, none, object{}), one(document.Italic, none, object{}), one(document.Underline, none, object{}), one(document.Strike, none, object{}),
		one(document.Highlight, none, object{"color": color}),
		one(document.TextStyle, none, object{"color": color, "fontFamily": object{"enum": fonts}, "fontSize": object{"type": "string", "pattern": "^([89]px|[1-6][0-9]px|7[0-2]px)?$"}}),
		one(document.Link, []any{"href"}, object{"href": object{"type": "string", "minLength": 1}, "gaps": attrSchema("gaps")}),
	}}
}

func schema() object {
	text, color := object{"type": "string"}, object{"type": "string", "pattern": "^(#[0-9A-Fa-f]{6})?$"}
	defs := object{"mark": markSchema()}
	gap := nodeSchema(document.GapNode, "")["properties"].(object)["attrs"].(object)
	defs["gapAttrs"] = gap
	for context, types := range contexts {
		var names, cases []any
		for _, t := range types {
			name := string(t)
			if document.Rules[t].Same {
				name += "In" + strings.ToUpper(context[:1]) + context[1:]
			}
			defs[name] = nodeSchema(t, context)
			names = append(names, t)
			cases = append(cases, object{"if": object{"properties": object{"type": object{"const": t}}}, "then": object{"$ref": "#/$defs/" + name}})
		}
		defs[context] = object{"type": "array", "items": object{"type": "object", "required": []any{"type"}, "properties": object{"type": object{"enum": names}}, "allOf": cases}}
	}
	doc := func(body object, attrs object, content string) object {
		attrs["version"], attrs["body"] = object{"const": document.FormatVersion}, body
		attrs["lang"] = object{"type": "string", "pattern": "^([A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3})?$"}
		return object{"type": "object", "properties": object{
			"type": object{"const": document.Doc}, "content": object{"$ref": "#/$defs/" + content},
			"attrs": object{"type": "object", "properties": attrs, "required": []any{"version", "body"}, "additionalProperties": false},
		}, "required": []any{"type", "attrs", "content"}, "additionalProperties": false}
	}
	fonts := markSchema()["anyOf"].([]any)[8].(object)["properties"].(object)["attrs"].(object)["properties"].(object)["fontFamily"]
	return object{
		"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "A document of Lucid Letter", "$defs": defs,
		"if":          object{"properties": object{"attrs": object{"properties": object{"body": object{"const": document.BodyFormatted}}}}},
		"then":        doc(object{"const": document.BodyFormatted}, object{"font": fonts, "size": object{"type": "integer", "minimum": 0, "maximum": document.MaxSize}, "color": color, "background": color, "align": object{"enum": []any{"", "center"}}}, "topBlocks"),
		"else":        doc(object{"enum": []any{document.BodyPlain, document.BodyHTML}}, object{"font": object{"const": ""}, "size": object{"const": 0}, "color": object{"const": ""}, "background": object{"const": ""}, "align": object{"const": ""}}, "lines"),
		"description": text["type"].(string) + " settings that are empty, 0 or false may be left out; addresses and fallbacks are in the text form of docs/format.md",
	}
}

func compiledSchema(t *testing.T) *jsonschema.Schema {
	t.Helper()
	made, err := json.MarshalIndent(schema(), "", " ")
	if err != nil {
		t.Fatal(err)
	}
	made = append(made, '\n')
	if *update {
		if err := os.WriteFile(schemaFile, made, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	stored, err := os.ReadFile(schemaFile)
	if err != nil || string(stored) != string(made) {
		t.Fatalf("%s is not of the rules of this version (%v); run with -update", schemaFile, err)
	}
	parsed, err := jsonschema.UnmarshalJSON(strings.NewReader(string(stored)))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("document.json", parsed); err != nil {
		t.Fatal(err)
	}
	s, err := c.Compile("document.json")
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// Every document that ParseJSON takes fits the schema, and what it refuses does
// not, read by github.com/santhosh-tekuri/jsonschema.
func TestSchema_agreesWithParseJSON(t *testing.T) {
	s := compiledSchema(t)
	fits := func(text string) bool {
		value, err := jsonschema.UnmarshalJSON(strings.NewReader(text))
		return err == nil && s.Validate(value) == nil
	}
	cat := lettertest.Catalogue()
	for seed := range uint64(400) {
		d := markup.Canonical(lettertest.Trees{R: rand.New(rand.NewPCG(seed, 11))}.Document())
		p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: d}, cat)
		for _, one := range []document.Document{d, p.Merge(lettertest.Ada(t, cat), nil, field.NewReader("en")).Body, markup.Parse("Dear {{person.first_name|you}},\n{{#deal.amount}}\nx {{?why: text}}\n{{/deal.amount}}"), markup.ParseHTML("<p>{{person.city}}</p>")} {
			if text := lettertest.JSONOf(t, one); !fits(text) {
				value, _ := jsonschema.UnmarshalJSON(strings.NewReader(text))
				t.Fatalf("seed %d: %v\n%s", seed, s.Validate(value), text)
			}
		}
	}
	const head = `{"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[`
	for _, inside := range []string{
		`{"type":"video"}`, `{"type":"text","text":"a"}`, `{"type":"paragraph","text":"a"}`, `{"type":"paragraph","attrs":{"level":1}}`, `{"type":"heading"}`, `{"type":"heading","attrs":{"level":4}}`,
		`{"type":"paragraph","attrs":{"align":"middle"}}`, `{"type":"bulletList"}`, `{"type":"bulletList","content":[]}`, `{"type":"bulletList","content":[{"type":"paragraph"}]}`, `{"type":"image"}`,
		`{"type":"image","attrs":{"src":"x","onclick":"y"}}`, `{"type":"spacer","attrs":{"height":900}}`, `{"type":"columns","content":[{"type":"column","content":[{"type":"columns","content":[{"type":"column","content":[{"type":"paragraph"}]}]}]}]}`,
		`{"type":"table","content":[{"type":"tableRow","content":[{"type":"tableCell","content":[{"type":"table"}]}]}]}`, `{"type":"paragraph","content":[{"type":"field"}]}`, `{"type":"paragraph","content":[{"type":"field","attrs":{"path":"a.b","missing":"perhaps"}}]}`,
		`{"type":"paragraph","content":[{"type":"text","text":"a\nb"}]}`, `{"type":"paragraph","content":[{"type":"text","text":"a","marks":[{"type":"blink"}]}]}`, `{"type":"paragraph","content":[{"type":"text","text":"a","marks":[{"type":"link"}]}]}`,
		`{"type":"paragraph","content":[{"type":"text","text":"a","marks":[{"type":"textStyle","attrs":{"color":"red"}}]}]}`, `{"type":"paragraph","content":[{"type":"text","text":"a","marks":[{"type":"textStyle","attrs":{"fontSize":"7px"}}]}]}`,
		`{"type":"paragraph","content":[{"type":"paragraph"}]}`, `{"type":"fixed","content":[{"type":"listItem"}]}`, `{"type":"onlyWhen","content":[{"type":"paragraph"}]}`, `{"type":"divider","content":[{"type":"paragraph"}]}`, `{"type":"paragraph","extra":1}`,
	} {
		if _, err := document.ParseJSON([]byte(head + inside + "]}")); err == nil || fits(head+inside+"]}") {
			t.Errorf("%s: ParseJSON says %v, the schema %v", inside, err, fits(head+inside+"]}"))
		}
	}
	for _, whole := range []string{
		`{}`, `{"type":"doc","attrs":{"version":2,"body":"plain"},"content":[]}`, `{"type":"doc","attrs":{"version":1,"body":"plain","font":"Georgia"},"content":[]}`,
		`{"type":"doc","attrs":{"version":1,"body":"formatted","font":"Comic"},"content":[]}`, `{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"heading","attrs":{"level":1}}]}`,
		`{"type":"doc","attrs":{"version":1,"body":"plain","lang":"the reader's"},"content":[]}`,
	} {
		if _, err := document.ParseJSON([]byte(whole)); err == nil || fits(whole) {
			t.Errorf("%s: ParseJSON says %v, the schema %v", whole, err, fits(whole))
		}
	}
}
