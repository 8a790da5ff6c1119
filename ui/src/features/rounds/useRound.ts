import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef } from "react";
import { toast } from "sonner";
import { $api, noAnswer, statusOf, wordsOf } from "../../api/client";
import type { Round } from "./words";

/** A round as the server has it; asked again while people are being checked or letters go. */
export function useRound(id: number) {
  const queries = useQueryClient();
  const path = { params: { path: { id } } };
  const round = $api.useQuery("get", "/api/rounds/{id}", path, {
    staleTime: 0,
    refetchInterval: ({ state }) => {
      const r = state.data;
      if (!r) return false;
      const slow = r.total > 20_000 ? 4 : 1; // counting very many takes a while
      return r.working ? 400 * slow : r.state === "sending" ? 1000 * slow : r.beganAt ? 15_000 : 60_000;
    },
  });
  /** Everything of the round is asked for anew: its people, their letters. */
  const refresh = useCallback(async () => {
    queries.removeQueries({ queryKey: ["get", "/api/rounds/{id}/people/{person}"], type: "inactive" });
    await Promise.all([
      queries.invalidateQueries({ queryKey: ["get", "/api/rounds/{id}"] }),
      queries.invalidateQueries({ queryKey: ["get", "/api/rounds/{id}/people"] }),
      queries.invalidateQueries({ queryKey: ["get", "/api/rounds/{id}/people/{person}"] }),
    ]);
  }, [queries]);
  /** Runs a change and shows what came of it; tells whether it was made. */
  const act = useCallback(
    async <Out>(
      call: Promise<{ data?: Out; error?: unknown }>,
      said?: string | ((out: Out) => string),
    ): Promise<boolean> => {
      const { data, error } = await call.catch(noAnswer as () => { data?: Out; error?: unknown });
      await refresh();
      if (error !== undefined) {
        toast.error(
          statusOf(error) === 409
            ? "The round was changed in another window. Here is how it is now; do it again."
            : wordsOf(error),
        );
        return false;
      }
      const words = typeof said === "function" ? said(data as Out) : said;
      if (words) toast.success(words);
      return true;
    },
    [refresh],
  );
  const version = round.data?.version ?? 0;
  const last = useRef<{ done: Promise<unknown>; open: number }>({ done: Promise.resolve(), open: 0 });
  /**
   * Runs changes of what the round is made of one after another, each on what the one before left: whoever fills in two
   * things quickly is no other window.
   */
  const inOrder = useCallback(
    <Out>(call: (version: number) => Promise<{ data?: Out; error?: unknown }>): Promise<boolean> => {
      const queue = last.current;
      const after = queue.open > 0;
      queue.open++;
      const run = async () => {
        const now = queries.getQueryData<Round>(["get", "/api/rounds/{id}", { params: { path: { id } } }]);
        return act(call(after ? (now?.version ?? version) : version)).finally(() => queue.open--);
      };
      const done = queue.done.then(run, run);
      queue.done = done;
      return done;
    },
    [act, id, queries, version],
  );
  return { round: round.data as Round | undefined, error: round.error, refresh, act, inOrder };
}

export type Acting = ReturnType<typeof useRound>["act"];
export type InOrder = ReturnType<typeof useRound>["inOrder"];
