import { Link } from "react-router";
import { $api } from "../../api/client";
import { clockNow } from "../../app/clock";
import { clockOf, inDays } from "../../components/time";
import { NewWords } from "./NewWords";

/** Letters of plans that wait to be proofread, and what comes by itself today. */
export function PlansToday() {
  const waiting = $api.useQuery(
    "get",
    "/api/runs",
    { params: { query: { state: ["waiting"], limit: 50 } } },
    { refetchInterval: 5000 },
  ).data;
  const going = $api.useQuery(
    "get",
    "/api/runs",
    { params: { query: { state: ["going"], limit: 50 } } },
    { refetchInterval: 10_000 },
  ).data;
  const tomorrow = new Date(`${inDays(1)}T00:00`);
  const today = (going?.runs ?? []).filter((r) => r.nextAt && new Date(r.nextAt) < tomorrow);
  const drafts = $api.useQuery("get", "/api/order-drafts", {}, { refetchInterval: 10_000 }).data ?? [];
  const newWords = (waiting?.runs ?? []).filter(
    (r, i, all) => r.news && all.findIndex((o) => o.news && o.planId === r.planId) === i,
  );
  const proofread = (waiting?.total ?? 0) + drafts.length;
  if (proofread === 0 && today.length === 0) return null;
  const line = "flex flex-wrap items-baseline gap-x-4 border-b border-rule px-4 py-2 hover:bg-main-soft sm:px-6";
  return (
    <>
      {waiting && proofread > 0 && (
        <section aria-label="Letters to proofread" className="mb-6 border-x border-t border-rule bg-sheet">
          <h2 className="border-b border-rule px-4 py-1.5 font-semibold sm:px-6">Letters to proofread</h2>
          {newWords.map((r) => (
            <div key={r.planId} className="px-4 pt-3 sm:px-6">
              <NewWords news={r.reason} of={{ plan: r.planId }}>
                Letters of the plan “{r.plan}” wait to be proofread.
              </NewWords>
            </div>
          ))}
          <ul>
            {waiting.runs.map((r) => (
              <li key={r.id}>
                <Link
                  to={r.letterId && r.letterState === "draft" ? `/letters/${r.letterId}` : `/runs/${r.id}`}
                  className={line}
                >
                  <span className="font-serif text-[1.05rem] font-medium">{r.person}</span>
                  <span className="text-sm text-ink-soft">
                    {r.plan}: {r.next}
                  </span>
                  <span className="w-full text-sm text-advice">{r.reason}</span>
                </Link>
              </li>
            ))}
            {drafts.map((d) => (
              <li key={`order ${d.id}`}>
                <Link to={`/letters/${d.letterId}`} className={line}>
                  <span className="font-serif text-[1.05rem] font-medium">{d.person}</span>
                  <span className="text-sm text-ink-soft">Standing order “{d.order}”</span>
                  <span className="w-full text-sm text-advice">{d.text}</span>
                </Link>
              </li>
            ))}
          </ul>
          {waiting.total > waiting.runs.length && (
            <p className="border-b border-rule px-4 py-1.5 text-sm sm:px-6">
              <Link to="/plans?view=people" className="text-main underline">
                All {waiting.total}
              </Link>
            </p>
          )}
        </section>
      )}
      {today.length > 0 && (
        <section aria-label="Plans today" className="mb-6 border-x border-t border-rule bg-sheet">
          <h2 className="border-b border-rule px-4 py-1.5 font-semibold sm:px-6">Plans today</h2>
          <ul>
            {today.map((r) => (
              <li key={r.id}>
                <Link to={`/runs/${r.id}`} className={line}>
                  <span className="w-12 text-sm text-ink-soft">
                    {r.nextAt && new Date(r.nextAt) > clockNow() ? clockOf(r.nextAt) : "now"}
                  </span>
                  <span className="font-serif font-medium">{r.person}</span>
                  <span className="text-sm text-ink-soft">
                    {r.next} · {r.plan}
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
