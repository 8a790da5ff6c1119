import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useVirtualizer, type Virtualizer } from "@tanstack/react-virtual";
import { type RefObject, useState } from "react";
import type { Column } from "./useTableParams";

const window_ = 100;
export const rowHeight = 34;
export const headHeight = 32;

/** A list that is asked for in windows: where, with what, and how. */
export type Ask<Page> = {
  path: string;
  query: Record<string, unknown>;
  get: (offset: number, limit: number, signal: AbortSignal) => Promise<{ data?: Page; error?: unknown }>;
  /** What tells which rows those are, whatever their order and columns. */
  which?: Record<string, unknown>;
  /** Counts them all, when a page says that there are more than it counted. */
  count?: (signal: AbortSignal) => Promise<{ data?: { count: number }; error?: unknown }>;
};

type Page = { total: number; more?: boolean; columns: Column[] };

export type Rows<Row> = {
  total: number;
  /** The total is exact. */
  counted: boolean;
  columns: Column[];
  rowAt: (i: number) => Row | undefined;
  virtual: Virtualizer<HTMLDivElement, Element>;
  settled: boolean;
  error: unknown;
};

/** The rows in sight of a list; the others are neither fetched nor drawn. */
export function useRows<P extends Page, Row>(
  ask: Ask<P>,
  rowsOf: (page: P) => Row[],
  scroller: RefObject<HTMLDivElement | null>,
): Rows<Row> & { first: P | undefined } {
  const [range, setRange] = useState<[number, number]>([0, 0]);
  const pages = Array.from({ length: range[1] - range[0] + 1 }, (_, i) => range[0] + i);
  const answers = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["get", ask.path, { params: { query: { ...ask.query, offset: page * window_, limit: window_ } } }],
      queryFn: async ({ signal }: { signal: AbortSignal }): Promise<P> => {
        const { data, error } = await ask.get(page * window_, window_, signal);
        if (!data) throw error;
        return data;
      },
      placeholderData: keepPreviousData,
    })),
  });
  const first = answers[0];
  const more = first?.data?.more ?? false;
  const { count } = ask;
  const all = useQuery({
    queryKey: ["get", ask.path, "count", ask.which],
    queryFn: async ({ signal }) => {
      const { data, error } = (await count?.(signal)) ?? {};
      if (!data) throw error;
      return data.count;
    },
    enabled: more && count !== undefined,
  });
  const total = Math.max((more && all.data) || 0, first?.data?.total ?? 0);
  const rowAt = (i: number): Row | undefined => {
    const page = answers[Math.floor(i / window_) - range[0]]?.data;
    return page && rowsOf(page)[i % window_];
  };
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    scrollMargin: headHeight,
    scrollPaddingStart: headHeight,
    onChange: (v) => {
      const items = v.getVirtualItems();
      const from = Math.floor((items[0]?.index ?? 0) / window_);
      const to = Math.floor((items.at(-1)?.index ?? 0) / window_);
      setRange((old) => (old[0] === from && old[1] === to ? old : [from, to]));
    },
  });
  return {
    first: first?.data,
    total,
    counted: !more || all.data !== undefined,
    columns: first?.data?.columns ?? [],
    rowAt,
    virtual,
    settled: first?.data !== undefined && !first.isPlaceholderData,
    error: first?.error,
  };
}
