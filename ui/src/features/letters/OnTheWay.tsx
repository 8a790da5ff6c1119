import { Link } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { plural } from "../../components/plural";
import { dayOf } from "../../components/time";

type Letter = Schemas["OnTheWay"];

/** Letters that wait to go, each with the way to it. */
export function OnTheWayList({ letters }: { letters: Letter[] }) {
  return (
    <ul className="text-sm">
      {letters.map((l, i) => (
        <li key={l.id || `of ${i}`}>
          {l.id ? (
            <Link className="text-main underline" to={`/letters/${l.id}`}>
              {l.subject || "No subject"}
            </Link>
          ) : (
            `A letter from ${l.from}`
          )}
          {l.dueAt && `, due ${dayOf(l.dueAt)}`}
          {l.why && <span className="text-ink-soft"> – {l.why}</span>}
        </li>
      ))}
    </ul>
  );
}

/** What becomes of the letters that wait to go when something is done with the records they are to or about. */
export function OnTheWayOn({
  kind,
  ids,
  becomes,
}: {
  kind: "person" | "deal";
  ids: number[];
  becomes: (one: boolean) => string;
}) {
  const letters = $api.useQuery(
    "get",
    "/api/on-the-way",
    { params: { query: { kind, id: ids } } },
    { staleTime: 0, enabled: ids.length > 0 },
  );
  if (!letters.data?.length) return null;
  return (
    <div className="mt-2 border-l-3 border-advice py-1 pl-3">
      <p>
        {plural(letters.data.length, "letter waits", "letters wait")} to go. {becomes(letters.data.length === 1)}
      </p>
      <OnTheWayList letters={letters.data} />
    </div>
  );
}

/** Why letters of mine that wait to go will not go as they are, by letter. */
export function useUnfit(enabled: boolean): Map<number, string> {
  const { data } = $api.useQuery("get", "/api/unfit", {}, { refetchInterval: 15_000, staleTime: 0, enabled });
  return new Map((data ?? []).map((l) => [l.id, l.why]));
}
