import type { RefObject } from "react";
import { useSearchParams } from "react-router";
import { api } from "../../api/client";
import { useRows } from "../tables/useRows";

/** Which people of a round the list shows, as it stands in the address of the screen. */
export function useShown() {
  const [params, setParams] = useSearchParams();
  const set = (part: Record<string, string>) =>
    setParams(
      (old) => {
        const next = new URLSearchParams(old);
        for (const [key, value] of Object.entries(part)) value ? next.set(key, value) : next.delete(key);
        return next;
      },
      { replace: true },
    );
  return {
    group: params.get("group") ?? "",
    reason: params.get("reason") ?? "",
    missing: params.get("missing") ?? "",
    q: params.get("q") ?? "",
    hardest: params.get("hardest") === "true",
    person: Number(params.get("person") ?? 0),
    step: params.get("step") ?? "",
    set,
  };
}

export type Shown = ReturnType<typeof useShown>;

/** The people of a round in sight. */
export function useMembers(id: number, shown: Shown, scroller: RefObject<HTMLDivElement | null>) {
  const { group, reason, missing, q, hardest } = shown;
  const query = { group, reason, missing, q, hardest };
  return useRows(
    {
      path: "/api/rounds/{id}/people",
      query: { id, ...query },
      get: async (offset, limit, signal) => {
        const answer = await api.GET("/api/rounds/{id}/people", {
          params: { path: { id }, query: { ...query, offset, limit } },
          signal,
        });
        return answer.data ? { data: { ...answer.data, columns: [] } } : { error: answer.error };
      },
    },
    (page) => page.people,
    scroller,
  );
}
