import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type RefObject, useState } from "react";
import { useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";

export type Row = Schemas["PersonRow"];
export type Kind = "" | "lead" | "contact";
export type Sort = "name" | "company" | "last" | "added";

/** What the people table shows, as it stands in the address of the screen. */
export function useChosenPeople(onChange: () => void) {
  const [params, setParams] = useSearchParams();
  const set = (changes: Record<string, string>) => {
    const next = new URLSearchParams(params);
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    setParams(next, { replace: true });
    onChange();
  };
  return {
    q: params.get("q") ?? "",
    kind: (params.get("kind") ?? "") as Kind,
    sort: (params.get("sort") ?? "name") as Sort,
    down: params.get("down") === "true",
    where: params.get("where") ?? "",
    set,
  };
}

export type ChosenPeople = ReturnType<typeof useChosenPeople>;

const window_ = 100;
export const rowHeight = 34;

/** The rows in sight of all people; the others are neither fetched nor drawn. */
export function usePeople({ q, kind, sort, down, where }: ChosenPeople, scroller: RefObject<HTMLDivElement | null>) {
  const pageQuery = (page: number) =>
    $api.queryOptions(
      "get",
      "/api/people",
      { params: { query: { q, kind, sort, down, offset: page * window_, limit: window_, ...(where && { where }) } } },
      { placeholderData: keepPreviousData },
    );
  const [range, setRange] = useState<[number, number]>([0, 0]);
  const pages = Array.from({ length: range[1] - range[0] + 1 }, (_, i) => range[0] + i);
  const answers = useQueries({ queries: pages.map(pageQuery) });
  const first = answers[0];
  const total = first?.data?.total ?? 0;
  const rowAt = (i: number): Row | undefined => {
    const page = Math.floor(i / window_);
    return answers[page - range[0]]?.data?.people[i % window_];
  };
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    onChange: (v) => {
      const items = v.getVirtualItems();
      const from = Math.floor((items[0]?.index ?? 0) / window_);
      const to = Math.floor((items.at(-1)?.index ?? 0) / window_);
      setRange((old) => (old[0] === from && old[1] === to ? old : [from, to]));
    },
  });
  return { first, total, rowAt, virtual };
}
