import { useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";

/** Whom something is done with: those of a search and a filter. */
export type Which = Omit<Schemas["ExportPeopleRequest"], "as" | "ids">;

/** How many can be picked at once. */
const most = 5000;

/** The people that are picked in a list: one by one, a range, or all of it. */
export function usePicked(which: Which) {
  const [ids, setIds] = useState<ReadonlySet<number>>(new Set());
  const [last, setLast] = useState<number | null>(null); // the row that was picked last
  // Another list is another choice.
  const now = JSON.stringify(which);
  const [was, setWas] = useState(now);
  if (was !== now) {
    setWas(now);
    setIds(new Set());
    setLast(null);
  }
  const add = async (offset: number, limit: number) => {
    const { data, error } = await api.POST("/api/people/ids", { body: { ...which, offset, limit } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    setIds((before) => new Set([...before, ...data].slice(0, most)));
  };
  /** Picks a row or leaves it; with Shift, all from the last one to this. */
  const toggle = (row: number, id: number, range: boolean) => {
    if (range && last !== null && last !== row) void add(Math.min(last, row), Math.min(most, Math.abs(row - last) + 1));
    else
      setIds((before) => {
        const next = new Set(before);
        if (!next.delete(id)) next.add(id);
        return next;
      });
    setLast(row);
  };
  return { ids, toggle, all: () => add(0, most), clear: () => setIds(new Set()), most };
}

export type Picked = ReturnType<typeof usePicked>;
