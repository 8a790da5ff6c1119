import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { times } from "../../components/plural";
import { dayOf } from "../../components/time";

/** What an order would have done in the past 30 days, and to whom. */
export function Trial({ trial: t }: { trial: Schemas["OrderTrial"] }) {
  return (
    <section aria-label="On the past 30 days" className="space-y-2">
      <p className="font-semibold">
        {t.times === 0
          ? "In the past 30 days it would not have acted."
          : `In the past 30 days it would have acted ${t.more ? "at least " : ""}${times(t.times)}.`}
      </p>
      <p className="text-sm text-ink-soft">
        Letters and filter are as the records are now. Nothing was sent or changed.
        {t.known && ` Changes are on record since ${dayOf(t.known)} only.`}
      </p>
      {t.loop && <p className="text-stop">{t.loop}</p>}
      <ul className="max-h-96 overflow-auto border-t border-rule">
        {t.rows.map((r) => (
          <li
            key={`${r.at} ${r.personId} ${r.dealId} ${r.would.join()}`}
            className="border-b border-rule bg-sheet px-3 py-1.5"
          >
            <span className="flex flex-wrap items-baseline gap-x-3">
              {r.personId ? (
                <Link to={`/people/${r.personId}`} className="font-serif font-medium hover:underline">
                  {r.name}
                </Link>
              ) : (
                <span className="font-serif font-medium">{r.name}</span>
              )}
              <span className="text-sm text-ink-soft">{dayOf(r.at)}</span>
            </span>
            <span className={`block text-sm ${r.open ? "text-advice" : "text-ink-soft"}`}>{r.would.join("; ")}</span>
          </li>
        ))}
      </ul>
      {t.rows.length < t.times && <p className="text-sm text-ink-soft">and {t.times - t.rows.length} more</p>}
    </section>
  );
}
