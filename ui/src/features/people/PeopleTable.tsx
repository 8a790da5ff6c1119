import { PenLine } from "lucide-react";
import type { RefObject } from "react";
import { Link } from "react-router";
import { useWriting } from "../../app/writing";
import { openWords, useOpenLetters } from "../letters/OpenLetters";
import type { Picked } from "../lists/usePicked";
import { RecordTable } from "../tables/RecordTable";
import type { Rows } from "../tables/useRows";
import type { ChosenPeople, Row } from "./usePeople";

type Props = {
  chosen: ChosenPeople;
  rows: Rows<Row> & { unsorted: boolean };
  scroller: RefObject<HTMLDivElement | null>;
  active: number;
  onActive: (i: number) => void;
  picked: Picked;
};

const nameOf = (row: Row) => `${row.firstName} ${row.lastName}`.trim() || row.email || "No name";

/** The whole people table, of which only the rows in sight are drawn. */
export function PeopleTable({ chosen, rows, scroller, active, onActive, picked }: Props) {
  const write = useWriting();
  const openBy = new Map(
    (useOpenLetters().data ?? [])
      .filter((l) => !l.internal)
      .reverse()
      .map((l) => [l.personId, l]),
  );
  return (
    <RecordTable
      label="People"
      name={{ label: "Name", by: "name" }}
      table={{ ...chosen, sort: chosen.sort || (rows.unsorted ? "" : "name") }}
      rows={rows}
      scroller={scroller}
      active={active}
      narrow="company.name"
      lead={(row, at) => row && <Pick row={row} at={at} picked={picked} />}
      title={(row, at) => (
        <>
          <Link
            to={`/people/${row.id}`}
            onFocus={() => onActive(at)}
            className="font-serif text-[1.05rem] font-medium hover:underline"
          >
            {nameOf(row)}
          </Link>
          {row.optedOut && <span className="ml-2 text-sm text-stop">opted out</span>}
        </>
      )}
      cell={(row, column) => {
        if (column.path !== "letter") return undefined;
        const open = openBy.get(row.id);
        return (
          <span className="text-ink-soft">
            {open ? <span className="text-advice">{openWords(open)}: </span> : null}
            {open ? open.subject || "no subject yet" : row.lastSubject || "no letters yet"}
          </span>
        );
      }}
      tail={(row) => (
        <button
          type="button"
          tabIndex={-1}
          onClick={() => write({ personId: row.id })}
          aria-label={`Write to ${nameOf(row)}`}
          title="Write (w)"
          className="flex size-7 items-center justify-center rounded-sm text-ink-soft hover:text-main"
        >
          <PenLine size={15} aria-hidden />
        </button>
      )}
    />
  );
}

function Pick({ row, at, picked }: { row: Row; at: number; picked: Picked }) {
  return (
    <input
      type="checkbox"
      aria-label={`Select ${`${row.firstName} ${row.lastName}`.trim() || row.email || "somebody without a name"}`}
      title="With Shift, all from the last one to this"
      className="block accent-main"
      checked={picked.ids.has(row.id)}
      onChange={() => {}}
      onClick={(e) => picked.toggle(at, row.id, e.shiftKey)}
    />
  );
}
