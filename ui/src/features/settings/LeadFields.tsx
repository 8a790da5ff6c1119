import { $api } from "../../api/client";

type Props = { to: Record<string, string>; onChange: (to: Record<string, string>) => void };

const same = "\u0000same";
const takes = ["contact", "person", "company", "deal"];

/** Where the own fields of a lead go when it becomes a contact. */
export function LeadFields({ to, onChange }: Props) {
  const own = ($api.useQuery("get", "/api/fields").data ?? []).filter((f) => f.own && f.home);
  const lead = own.filter((f) => f.record === "lead");
  if (lead.length === 0) return null;
  return (
    <fieldset className="mt-4">
      <legend className="font-serif text-lg font-semibold">When a lead becomes a contact</legend>
      <p className="mb-2 text-sm text-ink-soft">
        Where the values of the lead’s own fields go. What goes nowhere is kept and not shown.
      </p>
      {lead.map((f) => {
        const twin = own.find((o) => o.path === f.path.replace("lead.", "person."));
        const fit = own.filter((o) => takes.includes(o.record) && (o.type === f.type || o.type === "text"));
        return (
          <label key={f.path} className="flex flex-wrap items-baseline gap-x-3 py-1">
            <span className="min-w-44">{f.label}</span>
            <select
              value={to[f.path] ?? same}
              onChange={(e) => {
                const { [f.path]: _was, ...rest } = to;
                onChange(e.target.value === same ? rest : { ...rest, [f.path]: e.target.value });
              }}
              className="border-b border-rule-strong bg-sheet py-0.5"
            >
              <option value={same}>{twin ? `person: ${twin.label}` : "nowhere; contacts have no such field"}</option>
              {twin && <option value="">nowhere</option>}
              {fit
                .filter((o) => o !== twin)
                .map((o) => (
                  <option key={o.path} value={o.path}>
                    {o.record}: {o.label}
                  </option>
                ))}
            </select>
          </label>
        );
      })}
    </fieldset>
  );
}
