import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { plural } from "../../components/plural";
import { fitsWords } from "../library/words";

/** Whom the template is for, and how many of them it reaches without a gap. */
export function ReachNote({ fits, reach }: { fits: string[]; reach: Schemas["Reach"] | undefined }) {
  const could = reach ? reach.people - reach.otherKind - reach.noDeal : 0;
  return (
    <div className="text-sm">
      <p>{fitsWords(fits)}</p>
      {reach && (
        <p className="mt-1">
          Reach: <b>{reach.complete}</b> of {plural(could, "person", "people")} without a gap
          {reach.otherKind > 0 ? `; ${plural(reach.otherKind, "is", "are")} of another kind` : ""}
          {reach.noDeal > 0 ? `; ${plural(reach.noDeal, "has", "have")} no open deal` : ""}.
        </p>
      )}
      {reach?.running && (
        <p role="status" className="mt-1 text-ink-soft">
          Still counting: {reach.people} of {reach.of} people so far.
        </p>
      )}
      {reach && reach.missing.length > 0 && (
        <>
          <ul className="mt-1">
            {reach.missing.slice(0, 4).map((m) => (
              <li key={m.path} className="flex gap-2">
                <span className="min-w-0 flex-1 truncate" title={m.path}>
                  {m.label} is missing
                </span>
                <span>{m.count}×</span>
              </li>
            ))}
          </ul>
          <details className="mt-1">
            <summary className="cursor-pointer text-main">Which people</summary>
            <ul className="mt-1">
              {reach.withGaps.map((p) => (
                <li key={p.id}>
                  <Link className="text-main underline" to={`/people/${p.id}`}>
                    {p.name}
                  </Link>
                  : {p.missing.join(", ")}
                </li>
              ))}
            </ul>
          </details>
        </>
      )}
    </div>
  );
}
