import { useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";

/** Whom something is done with: those of a search and a filter. */
export type Which = Omit<Schemas["ExportPeopleRequest"], "as" | "ids">;

/** How many can be picked at once. */
const most = 5000;

/** How far people may have moved in a list since it was drawn. */
const around = 200;

/** The people that are picked in a list: one by one, a range, or all of it. */
export function usePicked(which: Which) {
  const [ids, setIds] = useState<ReadonlySet<number>>(new Set());
  const [last, setLast] = useState<{ row: number; id: number } | null>(null); // what was picked last
  // Another list is another choice.
  const now = JSON.stringify(which);
  const [was, setWas] = useState(now);
  if (was !== now) {
    setWas(now);
    setIds(new Set());
    setLast(null);
  }
  const rows = async (offset: number, limit: number) => {
    const { data, error } = await api.POST("/api/people/ids", { body: { ...which, offset, limit } }).catch(noAnswer);
    if (!data) toast.error(wordsOf(error));
    return data ?? null;
  };
  const add = (more: number[]) => setIds((before) => new Set([...new Set([...before, ...more])].slice(0, most)));
  const all = async () => add((await rows(0, most)) ?? []);
  /** Picks all from one person to another. The list may have changed since it was drawn: the people count, not the rows. */
  const range = async (one: { row: number; id: number }, other: { row: number; id: number }) => {
    const from = Math.max(0, Math.min(one.row, other.row) - around);
    const found = await rows(from, Math.min(most, Math.abs(one.row - other.row) + 1 + 2 * around));
    if (!found) return;
    const [a, b] = [found.indexOf(one.id), found.indexOf(other.id)];
    if (a < 0 || b < 0) return void toast.error("The list has changed meanwhile. Select both ends again.");
    add(found.slice(Math.min(a, b), Math.max(a, b) + 1));
  };
  /** Picks a row or leaves it; with Shift, all from the last one to this. */
  const toggle = (row: number, id: number, shift: boolean) => {
    if (shift && last !== null && last.id !== id) void range(last, { row, id });
    else
      setIds((before) => {
        const next = new Set(before);
        if (!next.delete(id)) next.add(id);
        return next;
      });
    setLast({ row, id });
  };
  return { ids, toggle, all, clear: () => setIds(new Set()), most };
}

export type Picked = ReturnType<typeof usePicked>;
