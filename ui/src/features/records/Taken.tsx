import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";
import { listOf, plural } from "../../components/plural";
import { dayOf } from "../../components/time";
import { OnTheWayOn } from "../letters/OnTheWay";

export type RecordOf = { kind: "person" | "company" | "deal"; id: number; name: string };

const lists = { person: "/people", company: "/companies", deal: "/deals" };

/** Puts a record back that was deleted. */
export function usePutBack() {
  const queries = useQueryClient();
  return async ({ kind, id, name }: RecordOf) => {
    const { error } = await api
      .POST("/api/records/{kind}/{id}/put-back", { params: { path: { kind, id } } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    const runs = kind === "person" ? await api.GET("/api/runs", { params: { query: { person: id } } }) : undefined;
    const stopped = runs?.data?.runs.some((r) => r.state === "stopped");
    toast.success(
      stopped
        ? `${name} is back. Plans that were stopped stay stopped; start one again when you like.`
        : `${name} is back.`,
    );
    await queries.invalidateQueries();
  };
}

/** Asks before a record is deleted, and says what hangs on it. */
export function DeleteRecord({ record, onClose }: { record: RecordOf; onClose: () => void }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const putBack = usePutBack();
  const { kind, id, name } = record;
  const hangs = $api.useQuery(
    "get",
    "/api/records/{kind}/{id}/hangs",
    { params: { path: { kind, id } } },
    { staleTime: 0 },
  );
  const { write, busy, problem } = useWrite(
    () => api.DELETE("/api/records/{kind}/{id}", { params: { path: { kind, id } } }),
    async () => {
      onClose();
      go(lists[kind]);
      toast(`${name} was deleted.`, {
        action: { label: "Undo", onClick: () => void putBack(record) },
        duration: 10_000,
      });
      await queries.invalidateQueries();
    },
  );
  return (
    <Modal
      title={`Delete ${name}?`}
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <Button look="main" className="ml-auto" disabled={busy || !hangs.data} onClick={() => write()}>
            Delete
          </Button>
        </>
      }
    >
      {hangs.data && <p>{hangsWords(hangs.data, kind)}</p>}
      {kind !== "company" && (
        <OnTheWayOn kind={kind} ids={[id]} becomes={(one) => (one ? "It won’t go then." : "They won’t go then.")} />
      )}
      <p className="mt-2 text-sm text-ink-soft">You can undo this, now or later from this address.</p>
    </Modal>
  );
}

function hangsWords(h: Schemas["Hangs"], kind: RecordOf["kind"]): string {
  const parts = [
    h.letters > 0 && plural(h.letters, "letter"),
    h.drafts > 0 && plural(h.drafts, "draft"),
    h.people > 0 && plural(h.people, "contact"),
    h.deals > 0 && plural(h.deals, "deal"),
    h.tasks > 0 && plural(h.tasks, "open task"),
    h.rounds > 0 && `a place in ${plural(h.rounds, "round")}`,
  ].filter((p) => p !== false);
  const one = parts.length === 1 && /^(1|a) /.test(parts[0] ?? "");
  const stay = parts.length > 0 ? `${listOf(parts)} ${one ? "stays as it is" : "stay as they are"}.` : "";
  const plans =
    h.runs > 0 ? ` ${plural(h.runs, "plan")} ${kind === "deal" ? "about it" : "they are on"} will stop.` : "";
  const said = `${stay}${plans}`.trim();
  if (said === "") return h.waiting > 0 && kind !== "company" ? "" : "Nothing else is linked to this record.";
  return said;
}

/** Says that a record was deleted, with the way back. */
export function DeletedLine({ record, at }: { record: RecordOf; at: string | undefined }) {
  const putBack = usePutBack();
  if (!at) return null;
  return (
    <p
      role="alert"
      className="flex flex-wrap items-baseline gap-x-3 border-b border-stop bg-stop-soft px-4 py-2 sm:px-6"
    >
      This record was deleted on {dayOf(at)}. It stands in no list and gets no letters.
      <Button look="quiet" className="px-1!" onClick={() => void putBack(record)}>
        Put it back
      </Button>
    </p>
  );
}
