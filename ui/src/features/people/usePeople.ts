import type { RefObject } from "react";
import { api, type Schemas } from "../../api/client";
import { useRows } from "../tables/useRows";
import { type TableParams, useTableParams } from "../tables/useTableParams";

export type Row = Schemas["PersonRow"];
export type Kind = "" | "lead" | "contact";

/** What the people table shows, as it stands in the address of the screen. */
export function useChosenPeople(onChange: () => void) {
  const table = useTableParams("person", onChange);
  return {
    ...table,
    kind: (table.params.get("kind") ?? "") as Kind,
    where: table.params.get("where") ?? "",
  };
}

export type ChosenPeople = TableParams & { kind: Kind; where: string };

/** The rows in sight of all people, and how many those are: counted behind, when they are very many. */
export function usePeople(chosen: ChosenPeople, scroller: RefObject<HTMLDivElement | null>) {
  const { q, kind, sort, down, where, columns } = chosen;
  const which = { q, kind, ...(where && { where }) };
  const query = { ...which, sort, down, columns };
  const rows = useRows(
    {
      path: "/api/people",
      query,
      which,
      get: (offset, limit, signal) =>
        api.GET("/api/people", { params: { query: { ...query, offset, limit } }, signal }),
      count: (signal) => api.GET("/api/people/count", { params: { query: which }, signal }),
    },
    (page) => page.people,
    scroller,
  );
  return { ...rows, unsorted: rows.first?.unsorted ?? false };
}
