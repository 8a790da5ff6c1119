import type { Editor } from "@tiptap/react";
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import type { MarginNote } from "../components/Margin";
import { LinkAddress, type Offer } from "./LinkAddress";
import { change, type Selected, unwrap } from "./selected";

type FieldInfo = Schemas["FieldInfo"];
type Props = {
  editor: Editor;
  selected: Selected[];
  fields: FieldInfo[];
  /** What can stand in addresses; without it the fields, by their codes. */
  offers?: Offer[] | undefined;
};

const forms: Record<string, [value: string, name: string][]> = {
  date: [
    ["", "long: 2 March 2026"],
    ["short", "short: 02/03/2026"],
    ["medium", "medium: 2 Mar 2026"],
    ["weekday", "with weekday"],
    ["relative", "in 3 days"],
    ["plain", "plain: 2026-03-02"],
  ],
  number: [
    ["", "formatted for the reader"],
    ["plain", "plain figure"],
  ],
};
forms.money = forms.number ?? [];

/** The note beside the cursor with the settings of what it is on. */
export function selectedNote(editor: Editor, selected: Selected[], fields: FieldInfo[], offers?: Offer[]): MarginNote {
  return {
    key: "selected",
    tone: "quiet",
    anchor: () => {
      const at = editor.view.coordsAtPos(editor.state.selection.from);
      return new DOMRect(at.left, at.top, 0, at.bottom - at.top);
    },
    content: <SelectedNote editor={editor} selected={selected} fields={fields} offers={offers} />,
  };
}

/** The settings of what the cursor is on: a chip, a link, a picture, a button, an only-when. */
export function SelectedNote({ editor, selected, fields, offers }: Props) {
  const put = offers ?? fields.map((f) => ({ name: f.name, put: `{{${f.path}}}` }));
  return (
    <div className="flex flex-col gap-3 text-sm">
      {selected.map((s) => (
        <Settings key={`${s.kind} ${s.pos}`} editor={editor} s={s} fields={fields} offers={put} />
      ))}
    </div>
  );
}

type SettingsProps = { editor: Editor; s: Selected; fields: FieldInfo[]; offers: Offer[] };

function Settings({ editor, s, fields, offers }: SettingsProps) {
  const set = (attrs: Record<string, unknown>) => change(editor, s, attrs);
  const text = (key: string) => String(s.attrs[key] ?? "");
  const field = fields.find((f) => f.path === text("path"));
  switch (s.kind) {
    case "field":
      return (
        <Group title={field?.name ?? text("path")}>
          <Choice
            label="If it is missing"
            value={text("missing") || "must"}
            choices={[
              ["must", "stop the letter"],
              ["instead", "use this instead"],
              ["leave", "leave it out"],
            ]}
            onChange={(missing) => set({ missing, fallback: missing === "instead" ? text("fallback") || "you" : "" })}
          />
          {text("missing") === "instead" && (
            <Line label="Instead" value={text("fallback")} onChange={(fallback) => set({ fallback })} />
          )}
          {field && forms[field.type] && (
            <Choice
              label="Written"
              value={text("as")}
              choices={forms[field.type] ?? []}
              onChange={(as) => set({ as })}
            />
          )}
        </Group>
      );
    case "blank":
      return <BlankSettings s={s} set={set} />;
    case "link":
      return (
        <Group title="Link">
          <LinkAddress label="Address" value={text("href")} offers={offers} onChange={(href) => set({ href })} />
          <Act onClick={() => editor.chain().focus().extendMarkRange("link").unsetLink().run()}>Remove link</Act>
        </Group>
      );
    case "button":
      return (
        <Group title="Button">
          <LinkAddress label="Address" value={text("href")} offers={offers} onChange={(href) => set({ href })} />
          <Aligned value={text("align")} onChange={(align) => set({ align })} />
          <Colour value={text("color") || "#1f4d3a"} onChange={(color) => set({ color })} />
        </Group>
      );
    case "image":
      return (
        <Group title="Picture">
          <LinkAddress label="Picture address" value={text("src")} offers={offers} onChange={(src) => set({ src })} />
          <Line label="Alternative text" value={text("alt")} onChange={(alt) => set({ alt })} />
          <LinkAddress label="Links to" value={text("href")} offers={offers} onChange={(href) => set({ href })} />
          <Line
            label="Width in pixels"
            value={s.attrs.width ? text("width") : ""}
            onChange={(w) => set({ width: Math.min(Number.parseInt(w, 10) || 0, 1200) })}
          />
          <Aligned value={text("align")} onChange={(align) => set({ align })} />
        </Group>
      );
    case "spacer":
      return (
        <Group title="Space">
          <Line
            label="Height in pixels"
            value={text("height")}
            onChange={(h) => set({ height: Math.max(1, Math.min(Number.parseInt(h, 10) || 16, 200)) })}
          />
        </Group>
      );
    case "table": {
      const run = () => editor.chain().focus();
      return (
        <Group title="Table">
          <p className="flex flex-wrap gap-x-3">
            <Act onClick={() => run().addRowAfter().run()}>Add row</Act>
            <Act onClick={() => run().addColumnAfter().run()}>Add column</Act>
            <Act onClick={() => run().deleteRow().run()}>Delete row</Act>
            <Act onClick={() => run().deleteColumn().run()}>Delete column</Act>
            <Act onClick={() => run().deleteTable().run()}>Delete table</Act>
          </p>
        </Group>
      );
    }
    case "fixed":
      return (
        <Group title="Fixed wording">
          <p>Writers can’t change this wording.</p>
          <Act onClick={() => unwrap(editor, s)}>Remove the protection</Act>
        </Group>
      );
    default:
      return (
        <Group title="Only when">
          <Condition s={s} set={set} fields={fields} />
          <Act onClick={() => unwrap(editor, s)}>Always show it</Act>
        </Group>
      );
  }
}

const kinds: [string, string][] = [
  ["text", "a short text"],
  ["long", "a long text"],
  ["choice", "a choice from a list"],
  ["date", "a date"],
  ["number", "a number"],
  ["file", "a file"],
  ["colleague", "a colleague"],
];

/** The name of a blank as the text form holds it: any words, with _ for spaces. */
function blankName(words: string): string {
  const name = words
    .replace(/[.:{}|"\\=]+/g, " ")
    .trim()
    .replace(/\s+/g, "_");
  return name.replace(/^[^\p{L}]+/u, "") || "words";
}

function BlankSettings({ s, set }: { s: Selected; set: (attrs: Record<string, unknown>) => void }) {
  const text = (key: string) => String(s.attrs[key] ?? "");
  const choices = (s.attrs.choices as string[] | undefined) ?? [];
  return (
    <Group title="Blank">
      <Line label="Name" value={text("name").replaceAll("_", " ")} onChange={(v) => set({ name: blankName(v) })} />
      <Choice
        label="What the writer enters"
        value={text("kind") || "text"}
        choices={kinds}
        onChange={(kind) => set({ kind, choices: kind === "choice" ? ["this", "that"] : [] })}
      />
      {text("kind") === "choice" && (
        <Line
          label="Choices, separated by commas"
          value={choices.join(", ")}
          onChange={(v) => {
            const list = v
              .split(",")
              .map((c) => c.trim())
              .filter(Boolean);
            if (list.length > 1) set({ choices: list });
          }}
        />
      )}
      <Line label="Hint for the writer" value={text("hint")} onChange={(hint) => set({ hint })} />
      <Line label="Default" value={text("default")} onChange={(v) => set({ default: v })} />
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={s.attrs.optional === true}
          onChange={(e) => set({ optional: e.target.checked })}
        />
        optional
      </label>
    </Group>
  );
}

const comparisons: [string, string][] = [
  ["", "is filled"],
  ["^", "is empty"],
  ["=", "is"],
  ["!=", "is not"],
  ["in", "is one of"],
  [">", "is more than"],
  [">=", "is at least"],
  ["<", "is less than"],
  ["<=", "is at most"],
];

function Condition({
  s,
  set,
  fields,
}: {
  s: Selected;
  set: (a: Record<string, unknown>) => void;
  fields: FieldInfo[];
}) {
  const op = String(s.attrs.op ?? "");
  const not = s.attrs.not === true;
  const list = (s.attrs.literals as string[] | undefined) ?? [];
  const type = fields.find((f) => f.path === s.attrs.path)?.type;
  const hint = { money: "10000 EUR", date: "today+14", number: "5" }[type ?? ""] ?? "words";
  return (
    <>
      <Choice
        label="This field"
        value={String(s.attrs.path)}
        choices={fields.map((f) => [f.path, `${f.label} (${f.record.replace("deal.main_contact", "main contact")})`])}
        onChange={(path) => set({ path })}
      />
      <Choice
        label="Compare"
        value={op === "" && not ? "^" : op}
        choices={comparisons}
        onChange={(v) => {
          const bare = v === "" || v === "^";
          set({ op: bare ? "" : v, not: v === "^", literals: bare ? [] : list.length > 0 ? list : [hint] });
        }}
      />
      {op !== "" && (
        <Line
          label={op === "in" ? "One of these, separated by commas" : "With"}
          value={list.join(", ")}
          onChange={(v) =>
            set({
              literals:
                op === "in"
                  ? v
                      .split(",")
                      .map((w) => w.trim())
                      .filter(Boolean)
                  : [v.trim()],
            })
          }
        />
      )}
    </>
  );
}

function Group({ title, children }: { title: string; children: ReactNode }) {
  return (
    <fieldset className="flex min-w-0 flex-col gap-1.5">
      <legend className="mb-1 font-semibold text-ink">{title}</legend>
      {children}
    </fieldset>
  );
}

function Line({ label, value, onChange }: { label: string; value: string; onChange: (v: string) => void }) {
  return (
    <label className="block">
      <span className="text-ink-soft">{label}</span>
      <input
        key={value}
        defaultValue={value}
        onBlur={(e) => e.target.value !== value && onChange(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        className="w-full border-b border-rule-strong bg-transparent py-0.5 text-ink outline-none focus:border-main"
      />
    </label>
  );
}

type ChoiceProps = { label: string; value: string; choices: [string, string][]; onChange: (v: string) => void };

function Choice({ label, value, choices, onChange }: ChoiceProps) {
  return (
    <label className="block">
      <span className="text-ink-soft">{label}</span>
      <select
        value={value}
        onChange={(e) => onChange(e.target.value)}
        className="w-full border-b border-rule-strong bg-sheet py-0.5 text-ink outline-none focus:border-main"
      >
        {choices.map(([v, name]) => (
          <option key={v} value={v}>
            {name}
          </option>
        ))}
        {!choices.some(([v]) => v === value) && <option value={value}>{value}</option>}
      </select>
    </label>
  );
}

function Aligned({ value, onChange }: { value: string; onChange: (v: string) => void }) {
  return (
    <Choice
      label="Alignment"
      value={value}
      choices={[
        ["", "left"],
        ["center", "centred"],
        ["right", "right"],
      ]}
      onChange={onChange}
    />
  );
}

function Colour({ value, onChange }: { value: string; onChange: (v: string) => void }) {
  return (
    <label className="flex items-center gap-2">
      <span className="text-ink-soft">Colour</span>
      <input type="color" value={value} onChange={(e) => onChange(e.target.value)} className="h-6 w-10" />
    </label>
  );
}

function Act({ onClick, children }: { onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" className="text-left text-main underline" onClick={onClick}>
      {children}
    </button>
  );
}
