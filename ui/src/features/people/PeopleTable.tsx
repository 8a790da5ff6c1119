import type { Virtualizer } from "@tanstack/react-virtual";
import { PenLine } from "lucide-react";
import type { RefObject } from "react";
import { Link } from "react-router";
import { useWriting } from "../../app/writing";
import { dayOf } from "../../components/time";
import { type OpenLetter, openWords, useOpenLetters } from "../letters/OpenLetters";
import type { Picked } from "../lists/usePicked";
import { type ChosenPeople, type Row, rowHeight, type Sort } from "./usePeople";

const grid =
  "grid grid-cols-[1.1rem_minmax(0,1.4fr)_minmax(0,1fr)_1.75rem] md:grid-cols-[1.1rem_minmax(0,1.3fr)_minmax(0,1.4fr)_minmax(0,1.7fr)_6.5rem_minmax(0,1.9fr)_6.5rem_1.75rem] gap-x-3 px-4 sm:px-6 xl:gap-x-4";

type Props = {
  chosen: ChosenPeople;
  total: number;
  rowAt: (i: number) => Row | undefined;
  virtual: Virtualizer<HTMLDivElement, Element>;
  scroller: RefObject<HTMLDivElement | null>;
  active: number;
  onActive: (i: number) => void;
  picked: Picked;
};

/** The whole people table, of which only the rows in sight are drawn. */
export function PeopleTable({ chosen, total, rowAt, virtual, scroller, active, onActive, picked }: Props) {
  const openBy = new Map(
    (useOpenLetters().data ?? [])
      .filter((l) => !l.internal)
      .reverse()
      .map((l) => [l.personId, l]),
  );

  return (
    <div role="table" aria-label="People" aria-rowcount={total} className="flex min-h-0 flex-1 flex-col bg-sheet">
      <div role="rowgroup">
        <div role="row" className={`${grid} border-b border-rule-strong py-1.5 text-sm text-ink-soft`}>
          <div role="columnheader">
            <span className="sr-only">Selected</span>
          </div>
          <Heading chosen={chosen} name="Name" by="name" always />
          <Heading chosen={chosen} name="Role" />
          <Heading chosen={chosen} name="Company" by="company" always />
          <Heading chosen={chosen} name="Status" />
          <Heading chosen={chosen} name="Last letter" />
          <Heading chosen={chosen} name="Sent" by="last" />
          <Heading chosen={chosen} name="" always />
        </div>
      </div>
      <div ref={scroller} role="rowgroup" className="min-h-0 flex-1 overflow-auto">
        <div style={{ height: virtual.getTotalSize() }} className="relative">
          {virtual.getVirtualItems().map((item) => (
            <div
              key={item.index}
              role="row"
              aria-rowindex={item.index + 1}
              aria-selected={item.index === active}
              className={`absolute inset-x-0 ${grid} items-center border-b border-rule ${item.index === active ? "bg-main-soft" : "hover:bg-ground"}`}
              style={{ height: rowHeight, transform: `translateY(${item.start}px)` }}
            >
              <Pick row={rowAt(item.index)} at={item.index} picked={picked} />
              <Cells
                row={rowAt(item.index)}
                open={openBy.get(rowAt(item.index)?.id ?? 0)}
                onFocus={() => onActive(item.index)}
              />
            </div>
          ))}
        </div>
      </div>
    </div>
  );
}

function Pick({ row, at, picked }: { row: Row | undefined; at: number; picked: Picked }) {
  return (
    <div role="cell">
      {row && (
        <input
          type="checkbox"
          aria-label={`Select ${`${row.firstName} ${row.lastName}`.trim() || row.email || "somebody without a name"}`}
          title="With Shift, all from the last one to this"
          className="block accent-main"
          checked={picked.ids.has(row.id)}
          onChange={() => {}}
          onClick={(e) => picked.toggle(at, row.id, e.shiftKey)}
        />
      )}
    </div>
  );
}

function Heading({
  name,
  by,
  always = false,
  chosen,
}: {
  name: string;
  by?: Sort;
  always?: boolean;
  chosen: ChosenPeople;
}) {
  const { sort, down, set } = chosen;
  return (
    <div
      role="columnheader"
      aria-sort={sort === by ? (down ? "descending" : "ascending") : undefined}
      className={always ? "" : "hidden md:block"}
    >
      {by ? (
        <button
          type="button"
          className={`hover:text-main ${sort === by ? "font-semibold text-main" : ""}`}
          onClick={() => set({ sort: by, down: sort === by ? String(!down) : by === "last" ? "true" : "" })}
        >
          {name}
          {sort === by ? (down ? " ↓" : " ↑") : ""}
        </button>
      ) : (
        name
      )}
    </div>
  );
}

function Cells({ row, open, onFocus }: { row: Row | undefined; open: OpenLetter | undefined; onFocus: () => void }) {
  const write = useWriting();
  if (!row)
    return (
      <div role="cell" className="text-ink-soft">
        …
      </div>
    );
  const name = `${row.firstName} ${row.lastName}`.trim() || row.email || "No name";
  return (
    <>
      <div role="cell" className="truncate">
        <Link
          to={`/people/${row.id}`}
          onFocus={onFocus}
          className="font-serif text-[1.05rem] font-medium hover:underline"
        >
          {name}
        </Link>
        {row.optedOut && <span className="ml-2 text-sm text-stop">opted out</span>}
      </div>
      <div role="cell" className="hidden truncate md:block">
        {row.jobTitle}
      </div>
      <div role="cell" className="truncate">
        {row.company}
      </div>
      <div role="cell" className="hidden truncate text-ink-soft md:block">
        {row.kind === "lead" ? row.status : "contact"}
      </div>
      <div role="cell" className="hidden truncate text-ink-soft md:block">
        {open ? <span className="text-advice">{openWords(open)}: </span> : null}
        {open ? open.subject || "no subject yet" : row.lastSubject || "no letters yet"}
      </div>
      <div role="cell" className="hidden truncate text-ink-soft md:block">
        {row.lastLetter ? dayOf(row.lastLetter) : ""}
      </div>
      <div role="cell" className="text-right">
        <button
          type="button"
          tabIndex={-1}
          onClick={() => write({ personId: row.id })}
          aria-label={`Write to ${name}`}
          title="Write (w)"
          className="flex size-7 items-center justify-center rounded-sm text-ink-soft hover:text-main"
        >
          <PenLine size={15} aria-hidden />
        </button>
      </div>
    </>
  );
}
