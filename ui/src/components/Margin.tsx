import { type ReactNode, type RefObject, useLayoutEffect, useRef, useState } from "react";

export type MarginNote = {
  key: string;
  tone: "stop" | "advice" | "quiet";
  /** The place on the sheet that the note is about, or null for the whole sheet. */
  anchor: () => DOMRect | null;
  content: ReactNode;
};

type Placed = { top: number; from: { x: number; y: number } | null };

const tones = {
  stop: "border-stop text-ink",
  advice: "border-advice text-ink",
  quiet: "border-rule-strong text-ink-soft",
};
const strokes = { stop: "var(--stop)", advice: "var(--advice)", quiet: "var(--rule-strong)" };
const space = 10;

/**
 * The margin beside a sheet: every note at the height of its line, joined to it by a hairline. Notes that would lie over
 * each other move down. On narrow screens it is a list under the sheet.
 */
export function Margin({
  label,
  notes,
  sheet,
  tick,
}: {
  label: string;
  notes: MarginNote[];
  sheet: RefObject<HTMLElement | null>;
  tick: unknown;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [places, setPlaces] = useState<Record<string, Placed>>({});
  const [wide, setWide] = useState(true);

  // biome-ignore lint/correctness/useExhaustiveDependencies: tick stands for whatever moves the lines
  useLayoutEffect(() => {
    const margin = box.current;
    if (!margin) return;
    const lay = () => {
      const beside = getComputedStyle(margin).position === "relative";
      setWide(beside);
      if (!beside) return;
      const origin = margin.getBoundingClientRect();
      const sorted = notes.map((n) => ({ n, at: n.anchor() })).sort((a, b) => (a.at?.top ?? -1) - (b.at?.top ?? -1));
      let bottom = 0;
      const next: Record<string, Placed> = {};
      for (const { n, at } of sorted) {
        const el = margin.querySelector<HTMLElement>(`[data-note="${CSS.escape(n.key)}"]`);
        const wish = at ? at.top - origin.top - 6 : 0;
        const top = Math.max(wish, bottom);
        next[n.key] = { top, from: at ? { x: at.right - origin.left, y: at.bottom - origin.top } : null };
        bottom = top + (el?.offsetHeight ?? 40) + space;
      }
      margin.style.minHeight = `${bottom}px`;
      setPlaces((old) => (JSON.stringify(old) === JSON.stringify(next) ? old : next));
    };
    lay();
    const watch = new ResizeObserver(lay);
    watch.observe(margin);
    if (sheet.current) watch.observe(sheet.current);
    for (const el of margin.querySelectorAll("[data-note]")) watch.observe(el);
    return () => watch.disconnect();
  }, [notes, sheet, tick]);

  return (
    <aside aria-label={label} className="min-w-0">
      <div ref={box} className="static flex flex-col gap-2 lg:relative lg:block">
        {wide && (
          <svg
            aria-hidden="true"
            className="pointer-events-none absolute inset-0 hidden size-full overflow-visible lg:block"
          >
            {notes.map((n) => {
              const p = places[n.key];
              if (!p?.from) return null;
              const y = p.top + 14;
              return (
                <polyline
                  key={n.key}
                  points={`${p.from.x},${p.from.y} ${-18},${p.from.y} ${-6},${y} 0,${y}`}
                  fill="none"
                  stroke={strokes[n.tone]}
                  strokeWidth="1"
                />
              );
            })}
          </svg>
        )}
        {notes.map((n) => (
          <div
            key={n.key}
            data-note={n.key}
            style={wide ? { top: places[n.key]?.top ?? 0 } : undefined}
            className={`border-l-2 bg-sheet px-3 py-1.5 lg:absolute lg:inset-x-0 ${tones[n.tone]}`}
          >
            {n.content}
          </div>
        ))}
      </div>
    </aside>
  );
}
