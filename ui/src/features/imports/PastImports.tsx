import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { listOf, plural } from "../../components/plural";
import { momentOf } from "../../components/time";
import { Progress } from "./Progress";

type Line = Schemas["ImportLine"];

/** The imports before, asked for again while one goes on. */
export function useImports() {
  return $api.useQuery(
    "get",
    "/api/imports",
    {},
    {
      staleTime: 0,
      refetchInterval: (q) => (q.state.data?.some((i) => i.report.running) ? 1000 : false),
    },
  );
}

/** The imports before, each with what it did and a way back; one that goes on shows how far it is. */
export function PastImports() {
  const imports = useImports();
  if (!imports.data || imports.data.length === 0) return null;
  return (
    <section aria-label="Earlier imports" className="mt-10">
      <h2 className="font-serif text-lg font-semibold">Earlier imports</h2>
      <ol className="mt-2 border border-rule bg-sheet">
        {imports.data.map((i) => (
          <li key={i.id} className="border-b border-rule px-3 py-2 last:border-b-0">
            <Past line={i} />
          </li>
        ))}
      </ol>
    </section>
  );
}

function Past({ line }: { line: Line }) {
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const { report } = line;
  const takeBack = async () => {
    setBusy(true);
    const { error } = await api
      .POST("/api/imports/{id}/take-back", { params: { path: { id: line.id } } })
      .catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    await queries.invalidateQueries();
    setBusy(false);
  };
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <span className="font-semibold">{line.file || "A file"}</span>
        <span className="text-sm text-ink-soft">
          {momentOf(line.at)}
          {!line.mine && ` · ${line.by}`}
        </span>
        <span className={line.state === "taken back" ? "text-ink-soft" : ""}>{did(line)}</span>
        {line.mayUndo && (
          <Button look="quiet" className="ml-auto px-1!" disabled={busy} onClick={() => void takeBack()}>
            Undo this import
          </Button>
        )}
      </div>
      {report.running && (
        <Progress
          report={report}
          words={line.state === "writing" ? "It carries on by itself." : "The import is being undone."}
        />
      )}
      {report.kept.length > 0 && (
        <details className="text-sm" open={report.keptAll <= 5}>
          <summary>
            {plural(report.keptAll, "record was", "records were")} left as {report.keptAll === 1 ? "it is" : "they are"}
          </summary>
          <ul className="max-h-48 overflow-auto pl-4">
            {report.kept.map((k) => (
              <li key={k.why}>{k.why}.</li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** What an import did, in words. */
function did({ state, report: r }: Line): string {
  if (state === "taken back") return `undone: ${plural(r.takenBack, "record is", "records are")} as before`;
  if (state !== "done") return "";
  const parts = [
    r.created && `${plural(r.created, "person", "people")} added`,
    r.updated && `${plural(r.updated, "person", "people")} updated`,
    r.companies.created + r.companies.updated &&
      plural(r.companies.created + r.companies.updated, "company", "companies"),
    r.deals.created + r.deals.updated && plural(r.deals.created + r.deals.updated, "deal"),
  ].filter((p) => typeof p === "string");
  return parts.length > 0 ? listOf(parts) : "nothing to change";
}
