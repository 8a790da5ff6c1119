import { useState } from "react";
import { useKeys } from "../../app/keys";
import type { Rows } from "./useRows";
import type { TableParams } from "./useTableParams";

/** The row that the keys are at: it moves by them, and begins anew with another table. */
export function useActive<Row>(rows: Rows<Row>, table: TableParams): [number, (i: number) => void] {
  const [active, setActive] = useState(0);
  const now = table.params.toString();
  const [was, setWas] = useState(now);
  if (was !== now) {
    setWas(now);
    setActive(0);
  }
  const move = (by: number) => {
    const next = Math.max(0, Math.min(rows.total - 1, active + by));
    setActive(next);
    rows.virtual.scrollToIndex(next);
  };
  useKeys({
    j: () => move(1),
    k: () => move(-1),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    PageDown: () => move(15),
    PageUp: () => move(-15),
  });
  return [active, setActive];
}
