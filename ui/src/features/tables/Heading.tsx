import { type PointerEvent, useState } from "react";
import type { Column, TableParams } from "./useTableParams";

type Props = { name: string; by: string; table: TableParams; className?: string; right?: boolean };

/** The name of a column, by which the table is sorted when it is pressed. */
export function Heading({ name, by, table, className = "", right = false }: Props) {
  const { sort, down, set } = table;
  const here = sort === by;
  return (
    <span className={`flex min-w-0 ${right ? "justify-end" : ""} ${className}`}>
      <button
        type="button"
        className={`truncate hover:text-main ${here ? "font-semibold text-main" : ""}`}
        onClick={() => set({ sort: by, down: here && !down ? "true" : "" })}
      >
        {name}
        {here ? (down ? " ↓" : " ↑") : ""}
      </button>
    </span>
  );
}

const narrowest = 40;
const widest = 800;
const step = 16;
const within = (width: number) => Math.round(Math.max(narrowest, Math.min(widest, width)));

type Sizing = { column: Column; onDraft: (width: number | null) => void; onSize: (width: number) => void };

/** The right edge of a heading: dragged, or moved by the arrows, it makes the column wider or
 * narrower; a double-click gives it as much room as there is. */
export function Edge({ column, onDraft, onSize }: Sizing) {
  const [from, setFrom] = useState<{ x: number; width: number } | null>(null);
  const now = (e: { currentTarget: Element }) =>
    column.width || Math.round(e.currentTarget.parentElement?.getBoundingClientRect().width ?? narrowest);
  const to = (e: PointerEvent) => within((from?.width ?? 0) + e.clientX - (from?.x ?? 0));
  return (
    <span
      role="separator"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={`Width of ${column.label}`}
      aria-valuenow={column.width}
      aria-valuemin={0}
      aria-valuemax={widest}
      aria-valuetext={column.width ? `${column.width} pixels` : "as wide as there is room"}
      title="Drag to change the width; double-click for as much as there is room"
      className="absolute inset-y-0 -right-2 z-10 w-3 cursor-col-resize touch-none border-r border-transparent hover:border-main focus-visible:border-main"
      onPointerDown={(e) => {
        e.preventDefault();
        e.currentTarget.setPointerCapture(e.pointerId);
        setFrom({ x: e.clientX, width: now(e) });
      }}
      onPointerMove={(e) => from && onDraft(to(e))}
      onPointerUp={(e) => {
        if (from && Math.abs(e.clientX - from.x) > 2) onSize(to(e));
        setFrom(null);
        onDraft(null);
      }}
      onPointerCancel={() => {
        setFrom(null);
        onDraft(null);
      }}
      onDoubleClick={() => onSize(0)}
      onKeyDown={(e) => {
        const by = { ArrowRight: step, ArrowLeft: -step }[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        onSize(within(now(e) + by));
      }}
    />
  );
}
