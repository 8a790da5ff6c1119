import { useState } from "react";
import { useKeys } from "../../app/keys";
import type { Rows } from "./useRows";
import type { TableParams } from "./useTableParams";

/** The row that the keys are at: it moves by them, and begins anew with another table. Chosen
 * tells that somebody went to it, and that it does not stand first by itself. */
export function useActive<Row>(rows: Rows<Row>, table: TableParams): [number, (i: number) => void, boolean] {
  const [active, setActive] = useState(0);
  const [chosen, setChosen] = useState(false);
  const now = table.params.toString();
  const [was, setWas] = useState(now);
  if (was !== now) {
    setWas(now);
    setActive(0);
    setChosen(false);
  }
  const goTo = (i: number) => {
    setActive(i);
    setChosen(true);
  };
  const move = (by: number) => {
    const next = Math.max(0, Math.min(rows.total - 1, active + by));
    goTo(next);
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
  return [active, goTo, chosen];
}
