import { useState } from "react";
import { Link } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { Select } from "../../components/Select";
import { standing } from "./words";

const groups = [
  ["now", "On it now"],
  ["waiting", "Waiting for you"],
  ["finished", "Finished"],
  ["stopped", "Stopped"],
] as const;

type Group = (typeof groups)[number][0];

const states: Record<Group, ("going" | "waiting" | "paused" | "finished" | "stopped")[]> = {
  now: ["going", "waiting", "paused"],
  waiting: ["waiting"],
  finished: ["finished"],
  stopped: ["stopped"],
};

/** Who goes through a plan, in its margin. */
export function PeopleOn({ plan }: { plan: Schemas["PlanOut"] }) {
  const [group, setGroup] = useState<Group>("now");
  const runs = $api.useQuery(
    "get",
    "/api/runs",
    { params: { query: { plan: plan.id, state: states[group], limit: 50 } } },
    { refetchInterval: 5000, placeholderData: (d) => d },
  );
  const all = Object.values(plan.counts).reduce((a, b) => a + b, 0);
  return (
    <aside aria-label="People on this plan" className="min-w-0">
      <div className="mb-2 flex flex-wrap items-baseline justify-between gap-x-3">
        <h2 className="font-semibold">People</h2>
        {all > 0 && <Select label="Which people" value={group} choices={groups} onChange={setGroup} />}
      </div>
      <ProblemText error={runs.error} />
      {all === 0 ? (
        <p className="text-sm text-ink-soft">Nobody has been started on this plan yet.</p>
      ) : (
        runs.data && (
          <>
            {runs.data.runs.length === 0 && <p className="text-sm text-ink-soft">Nobody at the moment.</p>}
            <ul>
              {runs.data.runs.map((r) => (
                <li key={r.id} className="border-b border-rule py-1.5">
                  <Link
                    to={r.mine ? `/runs/${r.id}` : `/people/${r.personId}`}
                    className="font-serif font-medium hover:underline"
                  >
                    {r.person}
                  </Link>
                  {!r.mine && <span className="text-sm text-ink-soft"> · {r.owner}</span>}
                  <span className={`block text-sm ${r.state === "waiting" ? "text-advice" : "text-ink-soft"}`}>
                    {standing(r)}
                  </span>
                </li>
              ))}
            </ul>
            {runs.data.total > runs.data.runs.length && (
              <p className="mt-1 text-sm text-ink-soft">{plural(runs.data.total, "person", "people")} in all</p>
            )}
          </>
        )
      )}
    </aside>
  );
}
