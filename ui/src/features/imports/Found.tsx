import { figures, plural } from "../../components/plural";
import type { How, Importing, Report } from "./useImport";

/** What a file would do, and the rows that are refused. */
export function Counts({ report }: { report: Report }) {
  const { companies, deals } = report;
  return (
    <section aria-label="What will happen">
      <p>
        {figures.format(report.rows)} rows: <b>{figures.format(report.created)}</b> would be added,{" "}
        <b>{figures.format(report.updated)}</b> updated, {figures.format(report.same)} are already the same,{" "}
        <b className={report.refused ? "text-stop" : ""}>{figures.format(report.refused)}</b> refused
        {report.asked > 0 && (
          <>
            , <b className="text-stop">{figures.format(report.asked)}</b> {report.asked === 1 ? "needs" : "need"} your
            answer
          </>
        )}
        .
      </p>
      {companies.created + companies.updated > 0 && (
        <p>
          Companies: <b>{figures.format(companies.created)}</b> would be added,{" "}
          <b>{figures.format(companies.updated)}</b> updated.
        </p>
      )}
      {deals.created + deals.updated > 0 && (
        <p>
          Deals: <b>{figures.format(deals.created)}</b> would be added, <b>{figures.format(deals.updated)}</b> updated.
        </p>
      )}
      {report.refusals.length > 0 && (
        <ol className="mt-2 max-h-64 overflow-auto border border-rule bg-sheet">
          {report.refusals.map((r) => (
            <li key={r.line} className="flex gap-4 border-b border-rule px-3 py-1.5 last:border-b-0">
              <span className="w-16 shrink-0 text-ink-soft">line {r.line}</span>
              <span className="min-w-0 break-words text-stop">{r.why}</span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** Rows whose address belongs to several people, or stands in several rows. */
export function Asks({ asks, onAnswer }: { asks: Report["asks"]; onAnswer: (key: string, answer: string) => void }) {
  if (asks.length === 0) return null;
  return (
    <section aria-label="Who is meant?">
      <h2 className="font-semibold">Who is meant?</h2>
      <ol className="mt-1 max-h-80 overflow-auto border border-rule bg-sheet">
        {asks.map((a) => (
          <li key={a.key} className="border-b border-rule px-3 py-2 last:border-b-0">
            <p>
              <span className="mr-3 text-ink-soft">line {a.line}</span>
              <b>{a.who || "No name"}</b>: {a.why}.
            </p>
            <select
              aria-label={`Line ${a.line}: ${a.who || a.email}`}
              value={a.answer}
              onChange={(e) => onAnswer(a.key, e.target.value)}
              className={`mt-1 max-w-full border-b border-rule-strong bg-transparent py-0.5 ${a.answer ? "" : "text-stop"}`}
            >
              {!a.answer && <option value="">Choose …</option>}
              {a.people.map((p) => (
                <option key={p.id} value={p.id}>
                  Update {p.name}
                  {p.about && ` (${p.about})`}
                </option>
              ))}
              <option value="new">Add another person with this address</option>
              <option value="skip">Leave this row out</option>
            </select>
          </li>
        ))}
      </ol>
    </section>
  );
}

const tidyWords: Record<How, (n: number) => string> = {
  spaces: (n) => `Remove extra spaces from ${plural(n, "value")}`,
  junk: (n) => `Leave out ${plural(n, "placeholder value")}`,
  capitals: (n) => `Fix capitals in ${plural(n, "name")}`,
  phones: (n) => `Use the international format for ${plural(n, "phone number")}`,
  country: (n) => `Write ${plural(n, "country", "countries")} in English`,
};

/** What is untidy in a file, to be tidied on the way. */
export function Tidyings({ it, report }: { it: Importing; report: Report }) {
  if (report.tidyings.length === 0) return null;
  const { tidy } = it.choice;
  return (
    <fieldset className="border border-rule bg-sheet px-3 py-2">
      <legend className="px-1 font-semibold">Tidy up while importing</legend>
      {report.tidyings.map((t) => (
        <label key={t.how} className="flex flex-wrap items-baseline gap-x-2 py-0.5">
          <input
            type="checkbox"
            className="accent-main"
            checked={tidy.includes(t.how)}
            onChange={(e) =>
              it.choose({ tidy: e.target.checked ? [...tidy, t.how] : tidy.filter((how) => how !== t.how) })
            }
          />
          <span>{tidyWords[t.how](t.count)}</span>
          <span className="text-sm text-ink-soft">
            {t.examples
              .slice(0, 3)
              .map((e) => `“${e.was}” → ${e.now ? `“${e.now}”` : "empty"}`)
              .join(" · ")}
          </span>
        </label>
      ))}
    </fieldset>
  );
}
