import { $api, type Schemas } from "../../api/client";

/** The fields of people that several of them may be given at once: not their names and addresses. */
export function useChangeable(): Schemas["FieldInfo"][] {
  return ($api.useQuery("get", "/api/fields").data ?? []).filter(
    (f) =>
      f.write &&
      ["person", "lead", "contact"].includes(f.record) &&
      f.type !== "email" &&
      !["person.first_name", "person.last_name"].includes(f.path),
  );
}

type Props = {
  label: string;
  fields: Schemas["FieldInfo"][];
  /** What stands there while none is chosen. */
  none: string;
  value: string;
  onChange: (path: string) => void;
};

/** Chooses one of some fields. */
export function FieldSelect({ label, fields, none, value, onChange }: Props) {
  return (
    <label className="block">
      <span className="block text-sm text-ink-soft">{label}</span>
      <select
        value={value}
        onChange={(e) => onChange(e.target.value)}
        className="min-h-9 w-full border-b border-rule-strong bg-sheet"
      >
        <option value="">{none}</option>
        {fields.map((f) => (
          <option key={f.path} value={f.path}>
            {f.name}
          </option>
        ))}
      </select>
    </label>
  );
}
