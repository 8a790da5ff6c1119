import { Columns3 } from "lucide-react";
import { type ReactNode, type RefObject, useState } from "react";
import { Button } from "../../components/Button";
import { dayOf } from "../../components/time";
import { ColumnsDialog } from "./ColumnsDialog";
import { Edge, Heading } from "./Heading";
import { headHeight, type Rows, rowHeight } from "./useRows";
import type { Column, TableParams } from "./useTableParams";

type Line = { id: number; cells?: string[] };

type Props<Row extends Line> = {
  label: string;
  /** The column that is always first, and what the table is sorted by for it. */
  name: { label: string; by: string };
  table: TableParams;
  rows: Rows<Row>;
  scroller: RefObject<HTMLDivElement | null>;
  active: number;
  /** Which column a narrow screen shows beside the name. */
  narrow: string;
  lead?: (row: Row | undefined, at: number) => ReactNode;
  title: (row: Row, at: number) => ReactNode;
  /** Another look of a cell; undefined for the usual one. */
  cell?: (row: Row, column: Column, text: string) => ReactNode;
  tail?: (row: Row) => ReactNode;
};

const right = (c: Column) => c.kind === "number" || c.kind === "money";
/** How much of the free room a column gets. */
const share = (c: Column) => (c.path === "letter" ? 1.9 : c.path === "company.name" ? 1.7 : right(c) ? 0.8 : 1.3);
/** The least room of a column whose width nobody chose. */
const leastOf = (c: Column) => c.width || (c.kind === "words" ? 120 : 96);
const tracks = (columns: Column[]) =>
  columns.map((c) => (c.width ? `${c.width}px` : `minmax(${leastOf(c)}px, ${share(c)}fr)`)).join(" ");

/** A table of records with the columns that somebody chose, of which only the rows in sight
 * are drawn. */
export function RecordTable<Row extends Line>(props: Props<Row>) {
  const { label, table, rows, scroller, active, lead, tail } = props;
  const [draft, setDraft] = useState<{ path: string; width: number } | null>(null);
  const columns = rows.columns.map((c) => (c.path === draft?.path ? { ...c, width: draft.width } : c));
  const one = columns.find((c) => c.path === props.narrow) ?? columns[0];
  const ends = [lead ? "1.1rem " : "", tail ? " 1.75rem" : ""];
  const style = {
    "--wide": `${ends[0]}minmax(9rem, 1.4fr) ${tracks(columns)}${ends[1]}`,
    "--narrow": `${ends[0]}minmax(0, 1.4fr) ${one ? "minmax(0, 1fr)" : ""}${ends[1]}`,
    "--least": `${columns.reduce((sum, c) => sum + leastOf(c) + 16, 240)}px`,
  } as React.CSSProperties;
  const line =
    "grid grid-cols-[var(--narrow)] md:grid-cols-[var(--wide)] md:min-w-[var(--least)] gap-x-3 px-4 sm:px-6 xl:gap-x-4";
  const hidden = (c: Column) => (c === one ? "" : "hidden md:block");
  const size = (path: string, width: number) =>
    table.choose(rows.columns.map((c) => (c.path === path ? { ...c, width } : c)));
  return (
    <div role="table" aria-label={label} aria-rowcount={rows.total} className="flex min-h-0 flex-1 flex-col bg-sheet">
      <div ref={scroller} role="presentation" className="min-h-0 flex-1 overflow-auto" style={style}>
        <div role="rowgroup" className="sticky top-0 z-10 bg-sheet md:min-w-[var(--least)]">
          <div
            role="row"
            style={{ height: headHeight }}
            className={`${line} items-center border-b border-rule-strong text-sm text-ink-soft`}
          >
            {lead && (
              <div role="columnheader">
                <span className="sr-only">Selected</span>
              </div>
            )}
            <Sorted table={table} by={props.name.by}>
              <Heading name={props.name.label} by={props.name.by} table={table} />
            </Sorted>
            {columns.map((c) => (
              <Sorted key={c.path} table={table} by={c.path} className={`relative ${hidden(c)}`}>
                <Heading name={c.label} by={c.path} table={table} right={right(c)} />
                <Edge
                  column={c}
                  onDraft={(width) => setDraft(width === null ? null : { path: c.path, width })}
                  onSize={(width) => size(c.path, width)}
                />
              </Sorted>
            ))}
            {tail && (
              <div role="columnheader">
                <span className="sr-only">Actions</span>
              </div>
            )}
          </div>
        </div>
        <div
          role="rowgroup"
          style={{ height: rows.virtual.getTotalSize() - headHeight }}
          className="relative md:min-w-[var(--least)]"
        >
          {rows.virtual.getVirtualItems().map((item) => {
            const row = rows.rowAt(item.index);
            return (
              <div
                key={item.index}
                role="row"
                aria-rowindex={item.index + 1}
                aria-selected={item.index === active}
                className={`absolute inset-x-0 ${line} items-center border-b border-rule ${item.index === active ? "bg-main-soft" : "hover:bg-ground"}`}
                style={{ height: rowHeight, transform: `translateY(${item.start - headHeight}px)` }}
              >
                {lead && <div role="cell">{lead(row, item.index)}</div>}
                <div role="cell" className="truncate">
                  {row ? props.title(row, item.index) : <span className="text-ink-soft">…</span>}
                </div>
                {columns.map((c, i) => (
                  <div
                    key={c.path}
                    role="cell"
                    className={`truncate ${right(c) ? "text-right tabular-nums" : ""} ${hidden(c)}`}
                  >
                    {row && (props.cell?.(row, c, row.cells?.[i] ?? "") ?? shown(c, row.cells?.[i] ?? ""))}
                  </div>
                ))}
                {tail && <div role="cell">{row && tail(row)}</div>}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function Sorted(props: { table: TableParams; by: string; className?: string; children: ReactNode }) {
  const { sort, down } = props.table;
  return (
    <div
      role="columnheader"
      aria-sort={sort === props.by ? (down ? "descending" : "ascending") : undefined}
      className={`min-w-0 ${props.className ?? ""}`}
    >
      {props.children}
    </div>
  );
}

/** A value as a table shows it: days and times as days. */
function shown(column: Column, text: string): ReactNode {
  if (!text) return null;
  const words = column.kind === "day" || column.kind === "moment" ? dayOf(text) : text;
  return <span title={words}>{words}</span>;
}

/** Opens the choice of the columns. */
export function ColumnsButton({ table, columns }: { table: TableParams; columns: Column[] }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)} className="max-md:hidden">
        <Columns3 size={15} aria-hidden /> Columns
      </Button>
      {open && <ColumnsDialog table={table} columns={columns} onClose={() => setOpen(false)} />}
    </>
  );
}
