import type { Schemas } from "../../api/client";
import { clockNow } from "../../app/clock";
import { plural } from "../../components/plural";
import { localDay } from "./words";

type Props = { outlook: Schemas["Outlook"]; at: number; onLook: (person: number) => void };

/** What a plan looks like for many: the letters of each day, who waits for something, who is left out. */
export function OutlookView({ outlook: o, at, onLook }: Props) {
  const now = clockNow().toISOString();
  const most = Math.max(1, o.perDay, ...o.days.map((d) => d.letters + d.others));
  const over = o.perDay > 0 ? o.days.filter((d) => d.letters + d.others > o.perDay).length : 0;
  return (
    <div className="mb-6 space-y-5">
      <p>
        {plural(o.people, "person", "people")} can be started
        {o.left.length > 0 && `; ${plural(o.left.length, "other is", "others are")} left out`}.
      </p>
      <section aria-label="Letters per day">
        <h2 className="mb-1 font-semibold">Letters per day</h2>
        {o.perDay > 0 && (
          <p className={`mb-1 text-sm ${over > 0 ? "text-advice" : "text-ink-soft"}`}>
            Your account sends {o.perDay} letters a day at most.
            {over > 0 && ` On ${plural(over, "day")} there are more; those that don’t fit go the next day.`}
          </p>
        )}
        <table className="w-full border-t border-rule text-sm">
          <thead className="sr-only">
            <tr>
              <th scope="col">Day</th>
              <th scope="col">Load</th>
              <th scope="col">Letters and tasks</th>
            </tr>
          </thead>
          <tbody>
            {o.days.map((d) => (
              <tr key={d.day} className="border-b border-rule bg-sheet">
                <th scope="row" className="w-32 px-3 py-1 text-left font-normal whitespace-nowrap">
                  {localDay(d.day, now)}
                </th>
                <td className="py-1 pr-3 max-sm:hidden">
                  <span aria-hidden className="flex h-2">
                    <span
                      className={o.perDay > 0 && d.letters + d.others > o.perDay ? "bg-advice" : "bg-main"}
                      style={{ width: `${(100 * d.letters) / most}%` }}
                    />
                    <span className="bg-rule-strong" style={{ width: `${(100 * d.others) / most}%` }} />
                  </span>
                </td>
                <td className="w-56 px-3 py-1 whitespace-nowrap">
                  {plural(d.letters, "letter")}
                  {d.others > 0 && <span className="text-ink-soft"> + {d.others} planned already</span>}
                  {d.tasks > 0 && <span className="text-ink-soft">, {plural(d.tasks, "task")}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {o.today > 0 && (
        <p className="text-advice">
          {plural(o.today, "of them has", "of them have")} a letter from you or a colleague today already.
        </p>
      )}
      {o.openN > 0 && (
        <section aria-label="Open letters">
          <h2 className="mb-1 font-semibold text-advice">
            {plural(o.openN, "person has", "people have")} a letter that isn’t complete
          </h2>
          <p className="mb-1 text-sm text-ink-soft">Those letters wait for you on their day. Look at one of them:</p>
          <ul className="max-h-52 overflow-auto border-t border-rule">
            {o.open.map((p) => (
              <li key={p.personId} className="flex flex-wrap gap-x-3 border-b border-rule bg-sheet px-3 py-1">
                <button
                  type="button"
                  aria-pressed={at === p.personId}
                  className="min-w-36 flex-1 text-left font-serif font-medium hover:underline"
                  onClick={() => onLook(p.personId)}
                >
                  {p.name}
                </button>
                <span className="text-sm text-ink-soft">
                  step {p.step}: {p.what}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {o.left.length > 0 && (
        <details>
          <summary className="cursor-pointer text-main">Who is left out, and why ({o.left.length})</summary>
          <ul className="mt-1 max-h-52 overflow-auto border-t border-rule">
            {o.left.slice(0, 300).map((p) => (
              <li key={p.personId} className="flex flex-wrap gap-x-3 border-b border-rule bg-sheet px-3 py-1">
                <span className="min-w-36 flex-1">{p.name}</span>
                <span className="text-sm text-ink-soft">{p.why}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
