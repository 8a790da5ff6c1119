import { Route } from "lucide-react";
import { Link } from "react-router";
import { $api } from "../../api/client";
import { standing } from "./words";

/** The plans that somebody is on, above what happened. */
export function PlansOf({ personId }: { personId: number }) {
  const runs = $api.useQuery(
    "get",
    "/api/runs",
    { params: { query: { person: personId, state: ["going", "waiting", "paused"] } } },
    { refetchInterval: 5000 },
  );
  return (
    <ul aria-label="Plans" className="empty:hidden">
      {runs.data?.runs.map((r) => {
        const words = (
          <>
            <Route size={14} aria-hidden className="mt-1 shrink-0 text-ink-soft" />
            <span className="min-w-0">
              <span className="font-serif font-medium">{r.plan}</span>
              <span className="text-sm text-ink-soft">
                {" "}
                · step {r.done + 1} of {r.of}
                {!r.mine && ` · ${r.owner}`}
              </span>
              <span className={`block text-sm ${r.state === "waiting" ? "text-advice" : "text-ink-soft"}`}>
                {standing(r)}
              </span>
            </span>
          </>
        );
        const look = "flex gap-2 border-b border-rule px-4 py-1.5 sm:px-6";
        return (
          <li key={r.id}>
            {r.mine ? (
              <Link to={`/runs/${r.id}`} className={`${look} hover:bg-sheet`}>
                {words}
              </Link>
            ) : (
              <div className={look}>{words}</div>
            )}
          </li>
        );
      })}
    </ul>
  );
}
