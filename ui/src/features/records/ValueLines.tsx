import { type FormEvent, type ReactNode, useId, useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { plural } from "../../components/plural";

type Info = Schemas["FieldInfo"];

/** The values that were typed into a form, by path; what is empty is left out. */
export function typedIn(event: FormEvent<HTMLFormElement>): Record<string, string> {
  const out: Record<string, string> = {};
  for (const [path, value] of new FormData(event.currentTarget)) {
    const text = String(value).trim();
    if (path.includes(".") && text) out[path] = text;
  }
  return out;
}

type Props = {
  /** The kinds of record whose fields can be written here. */
  of: string[];
  /** What is asked at once, in this order; the others on request. */
  first: string[];
  without?: string[];
  values?: Record<string, string>;
  onTyped?: (path: string, value: string) => void;
  /** What stands behind the first lines. */
  children?: ReactNode;
};

/** Lines for the values of a record that is written down. */
export function ValueLines({ of, first, without = [], values = {}, onTyped, children }: Props) {
  const [all, setAll] = useState(false);
  const fields = ($api.useQuery("get", "/api/fields").data ?? []).filter(
    (f) => of.includes(f.record) && f.write && !without.includes(f.path),
  );
  const main = first.flatMap((path) => fields.filter((f) => f.path === path));
  const rest = fields.filter((f) => !first.includes(f.path));
  return (
    <>
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2">
        {main.map((f, i) => (
          <ValueLine key={f.path} field={f} first={values[f.path] ?? ""} focus={i === 0} onTyped={onTyped} />
        ))}
        {children}
        {all &&
          rest.map((f) => (
            <ValueLine key={f.path} field={f} first={values[f.path] ?? ""} focus={false} onTyped={onTyped} />
          ))}
      </div>
      {!all && rest.length > 0 && (
        <Button look="quiet" className="mt-2 -ml-3" onClick={() => setAll(true)}>
          {plural(rest.length, "more field")}
        </Button>
      )}
    </>
  );
}

function ValueLine(props: {
  field: Info;
  first: string;
  focus: boolean;
  onTyped: ((path: string, value: string) => void) | undefined;
}) {
  const { field: f, first, focus, onTyped } = props;
  const look = "block min-h-9 w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main";
  const id = useId();
  const list = f.type === "yesno" ? ["true", "false"] : f.choices;
  return (
    <div className={f.type === "long" ? "sm:col-span-2" : ""}>
      <label htmlFor={id} className="block text-sm text-ink-soft">
        {f.label}
      </label>
      {list.length > 0 ? (
        <select id={id} name={f.path} defaultValue={first} className={`${look} bg-sheet`}>
          <option value="">—</option>
          {list.map((c) => (
            <option key={c} value={c}>
              {f.type === "yesno" ? (c === "true" ? "yes" : "no") : c}
            </option>
          ))}
        </select>
      ) : f.type === "long" ? (
        <textarea id={id} name={f.path} defaultValue={first} rows={3} className={look} />
      ) : (
        <input
          id={id}
          name={f.path}
          defaultValue={first}
          type={f.type === "date" ? "date" : "text"}
          placeholder={f.type === "money" ? "12500.00 EUR" : undefined}
          autoComplete="off"
          data-autofocus={focus || undefined}
          onChange={(e) => onTyped?.(f.path, e.target.value)}
          className={look}
        />
      )}
    </div>
  );
}
