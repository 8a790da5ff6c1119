import type { RefObject } from "react";
import { $api, api, type Schemas } from "../../api/client";
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
  const count = $api.useQuery("get", "/api/people/count", { params: { query: which } });
  const rows = useRows(
    {
      path: "/api/people",
      query,
      get: (offset, limit, signal) =>
        api.GET("/api/people", { params: { query: { ...query, offset, limit } }, signal }),
    },
    (page) => page.people,
    scroller,
    count.data?.count,
  );
  return {
    ...rows,
    counted: count.data !== undefined || !rows.first?.more,
    unsorted: rows.first?.unsorted ?? false,
  };
}
