import { Link } from "react-router";
import { $api } from "../../api/client";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { standing } from "./words";

/** Those of mine who are going through a plan. */
export function MyRuns() {
  const runs = $api.useQuery(
    "get",
    "/api/runs",
    { params: { query: { state: ["waiting", "going", "paused"], limit: 200 } } },
    { refetchInterval: 5000 },
  );
  if (runs.isPending) return <Loading />;
  return (
    <>
      <ProblemText error={runs.error} />
      {runs.data?.runs.length === 0 && (
        <p className="border border-rule bg-sheet px-5 py-8">
          Nobody of yours is on a plan. Open a plan and press Start people, or start one from a person.
        </p>
      )}
      <ul>
        {runs.data?.runs.map((r) => (
          <li key={r.id}>
            <Link
              to={`/runs/${r.id}`}
              className="grid gap-x-6 border-b border-rule bg-sheet px-4 py-2 hover:bg-main-soft sm:grid-cols-[minmax(0,14rem)_minmax(0,1fr)_5rem]"
            >
              <span className="min-w-0">
                <span className="block truncate font-serif font-semibold">{r.person}</span>
                <span className="block truncate text-sm text-ink-soft">{r.company}</span>
              </span>
              <span className="min-w-0">
                <span className="block truncate">{r.plan}</span>
                <span className={`block truncate text-sm ${r.state === "waiting" ? "text-advice" : "text-ink-soft"}`}>
                  {standing(r)}
                </span>
              </span>
              <span className="self-center text-sm text-ink-soft sm:text-right">
                {r.done} of {r.of}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {runs.data && runs.data.total > runs.data.runs.length && (
        <p className="mt-2 text-sm text-ink-soft">{plural(runs.data.total, "person", "people")} in all</p>
      )}
    </>
  );
}
