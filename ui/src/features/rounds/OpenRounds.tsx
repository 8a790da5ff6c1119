import { Link } from "react-router";
import { $api } from "../../api/client";
import { plural } from "../../components/plural";
import { countWords, stateWords } from "./words";

/** The rounds that are not over, each with where its letters stand. */
export function OpenRounds() {
  const rounds = $api.useQuery("get", "/api/rounds").data ?? [];
  const open = rounds.filter((r) => r.state !== "done" && r.state !== "stopped");
  if (open.length === 0) return null;
  return (
    <section aria-label="Rounds" className="mb-6 border-x border-t border-rule bg-sheet">
      <h2 className="border-b border-rule px-4 py-1.5 font-semibold sm:px-6">Rounds</h2>
      <ul>
        {open.slice(0, 8).map((r) => (
          <li key={r.id}>
            <Link
              to={`/rounds/${r.id}`}
              className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-4 py-2 hover:bg-main-soft sm:px-6"
            >
              <span className="font-serif font-semibold">{r.name}</span>
              <span className="text-sm text-ink-soft">
                {stateWords(r)} · {plural(r.total, "person", "people")}: {countWords(r.groups)}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
