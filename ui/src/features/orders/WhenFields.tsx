import { $api, type Schemas } from "../../api/client";
import { Input } from "../../components/Input";
import { ValueInput } from "../../components/ValueInput";
import { FieldSelect } from "../fields/FieldSelect";

type Trigger = Schemas["Trigger"];

const line = "block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main";

const kinds: [string, string, Trigger][] = [
  ["created person", "a person is added", { on: "created", record: "person" }],
  ["created deal", "a deal is added", { on: "created", record: "deal" }],
  ["changed person", "a field of a person changes", { on: "changed", record: "person" }],
  ["changed deal", "a stage or field of a deal changes", { on: "changed", record: "deal" }],
  ["date person", "a date of a person comes near", { on: "date", record: "person", days: 0 }],
  ["date deal", "a date of a deal comes near", { on: "date", record: "deal", days: 0 }],
  ["replied", "somebody replies", { on: "replied" }],
  ["clicked", "somebody follows a link in a letter", { on: "clicked" }],
  ["answered", "somebody answers a question in a letter", { on: "answered" }],
];

const people = ["person", "lead", "contact"];

/** What an order acts on. */
export function WhenFields({ when, onChange }: { when: Trigger; onChange: (when: Trigger) => void }) {
  const all = $api.useQuery("get", "/api/fields").data ?? [];
  const mine = all.filter((f) => f.home && (when.record === "deal" ? f.record === "deal" : people.includes(f.record)));
  const fields = mine.filter((f) => (when.on === "date" ? f.type === "date" : f.path !== "person.full_name"));
  const field = fields.find((f) => f.path === when.path);
  const kind = ["created", "changed", "date"].includes(when.on) ? `${when.on} ${when.record}` : when.on;
  const days = when.days ?? 0;
  return (
    <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2">
      <label className="block">
        <span className="block text-sm text-ink-soft">When</span>
        <select
          value={kind}
          onChange={(e) => onChange(kinds.find(([k]) => k === e.target.value)?.[2] ?? when)}
          className={line}
        >
          {kinds.map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {(when.on === "changed" || when.on === "date") && (
        <FieldSelect
          label={when.on === "date" ? "Which date" : "Which field"}
          fields={fields}
          none="choose …"
          value={when.path ?? ""}
          onChange={(path) => onChange({ ...when, path, value: "" })}
        />
      )}
      {when.on === "changed" && field && (
        <div>
          <span className="block text-sm text-ink-soft">Becomes (empty: any value)</span>
          {field.choices.length > 0 ? (
            <select
              aria-label="Becomes"
              value={when.value ?? ""}
              onChange={(e) => onChange({ ...when, value: e.target.value })}
              className={line}
            >
              <option value="">any value</option>
              {field.choices.map((c) => (
                <option key={c}>{c}</option>
              ))}
            </select>
          ) : (
            <ValueInput
              key={field.path}
              label="Becomes"
              type={field.type}
              choices={[]}
              value={when.value ?? ""}
              autoFocus={false}
              onTyped={(value) => onChange({ ...when, value })}
              onDone={(value) => onChange({ ...when, value })}
            />
          )}
        </div>
      )}
      {when.on === "date" && (
        <>
          <Input
            label="How many days"
            type="number"
            min={0}
            max={366}
            value={String(Math.abs(days))}
            onChange={(e) => {
              const n = Math.max(0, Math.min(366, Math.round(Number(e.target.value))));
              onChange({ ...when, days: days < 0 ? -n : n });
            }}
          />
          <label className="block">
            <span className="block text-sm text-ink-soft">Before or after it</span>
            <select
              value={days < 0 || Object.is(days, -0) ? "before" : "after"}
              onChange={(e) =>
                onChange({ ...when, days: (e.target.value === "before" ? -1 : 1) * Math.abs(days || 1) })
              }
              className={line}
            >
              <option value="before">before</option>
              <option value="after">after (0: on the day)</option>
            </select>
          </label>
          <label className="flex items-baseline gap-2 sm:col-span-2">
            <input
              type="checkbox"
              checked={when.yearly ?? false}
              onChange={(e) => onChange({ ...when, yearly: e.target.checked })}
            />
            <span>Every year on that day</span>
          </label>
        </>
      )}
    </div>
  );
}
