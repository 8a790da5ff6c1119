import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { plural } from "../../components/plural";
import { AddField } from "../fields/FieldDialogs";
import type { Importing, Report } from "./useImport";

type Column = Report["columns"][number];

const another = "a new field";

/** What a column was found by, where that is not its name. */
const howWords: Record<string, string> = {
  contents: "recognised from its contents",
  before: "same as last time",
};

/** Which column of the file goes to which field. */
export function Columns({ it, report }: { it: Importing; report: Report }) {
  const usable = ($api.useQuery("get", "/api/fields").data ?? []).filter((f) => f.import);
  const mayAdd = $api.useQuery("get", "/api/session").data?.may.editShared ?? false;
  const [adding, setAdding] = useState<Column | null>(null);
  const put = (header: string, path: string) => it.choose({ columns: { ...it.choice.columns, [header]: path } });
  return (
    <section aria-label="Columns">
      <table className="w-full table-fixed border border-rule bg-sheet text-left">
        <thead className="text-sm text-ink-soft">
          <tr>
            <th className="px-3 py-1 font-normal">Column in the file</th>
            <th className="px-3 py-1 font-normal">Field</th>
          </tr>
        </thead>
        <tbody>
          {report.columns.map((c) => (
            <tr key={`${c.header} ${c.path}`} className="border-t border-rule align-baseline">
              <td className="px-3 py-1">
                {c.header || "(no name)"}
                {c.example && <span className="block truncate text-sm text-ink-soft">{c.example}</span>}
              </td>
              <td className="px-3 py-1">
                <select
                  aria-label={`Field for ${c.header}`}
                  className="max-w-full bg-transparent"
                  value={c.problem ? "" : c.path || "-"}
                  onChange={(e) => (e.target.value === another ? setAdding(c) : put(c.header, e.target.value))}
                >
                  {c.problem && <option value="">choose …</option>}
                  <option value="-">skip</option>
                  {mayAdd && <option value={another}>add a new field …</option>}
                  <Fields fields={usable} />
                </select>
                {howWords[c.how] && c.path && <span className="ml-2 text-sm text-ink-soft">{howWords[c.how]}</span>}
                {c.problem && <span className="block text-sm text-advice">Choose a field or “skip”.</span>}
                {c.left > 0 && (
                  <span className="block text-sm text-advice">
                    Left out in {plural(c.left, "row")}: leads have no such field. Import them as contacts to keep it.
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {adding && (
        <AddField
          start={{ label: adding.header, type: adding.type }}
          onMade={(path) => put(adding.header, path)}
          onClose={() => setAdding(null)}
        />
      )}
    </section>
  );
}

const groups: [string, string[]][] = [
  ["People", ["person", "lead", "contact"]],
  ["Companies", ["company"]],
  ["Deals", ["deal"]],
];

function Fields({ fields }: { fields: Schemas["FieldInfo"][] }) {
  return groups.map(([name, records]) => (
    <optgroup key={name} label={name}>
      {fields
        .filter((f) => records.includes(f.record))
        .map((f) => (
          <option key={f.path} value={f.path}>
            {f.label} ({f.record})
          </option>
        ))}
    </optgroup>
  ));
}
