import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { PenLine, Upload } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { useHere, useWriting } from "../../app/writing";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { Tabs } from "../../components/Tabs";
import { dayOf } from "../../components/time";
import { type OpenLetter, openWords, useOpenLetters } from "../letters/OpenLetters";

type Row = Schemas["PersonRow"];
type Kind = "" | "lead" | "contact";
type Sort = "name" | "company" | "last" | "added";

const window_ = 100;
const rowHeight = 34;
const grid =
  "grid grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_1.75rem] md:grid-cols-[minmax(0,1.3fr)_minmax(0,1.4fr)_minmax(0,1.7fr)_6.5rem_minmax(0,1.9fr)_6.5rem_1.75rem] gap-x-4 px-4 sm:px-6";

/** The whole people table, of which only the rows in sight are fetched and drawn. */
export function PeoplePage() {
  const [params, setParams] = useSearchParams();
  const go = useNavigate();
  const q = params.get("q") ?? "";
  const kind = (params.get("kind") ?? "") as Kind;
  const sort = (params.get("sort") ?? "name") as Sort;
  const down = params.get("down") === "true";
  const [typed, setTyped] = useState(q);
  const [active, setActive] = useState(0);
  const search = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);

  const set = (changes: Record<string, string>) => {
    const next = new URLSearchParams(params);
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    setParams(next, { replace: true });
    setActive(0);
    scroller.current?.scrollTo({ top: 0 });
  };
  const setLatest = useRef(set);
  setLatest.current = set;
  useEffect(() => {
    if (typed === q) return;
    const timer = setTimeout(() => setLatest.current({ q: typed }), 150);
    return () => clearTimeout(timer);
  }, [typed, q]);

  const pageQuery = (page: number) =>
    $api.queryOptions(
      "get",
      "/api/people",
      { params: { query: { q, kind, sort, down, offset: page * window_, limit: window_ } } },
      { placeholderData: keepPreviousData },
    );
  const [range, setRange] = useState<[number, number]>([0, 0]);
  const pages = Array.from({ length: range[1] - range[0] + 1 }, (_, i) => range[0] + i);
  const answers = useQueries({ queries: pages.map(pageQuery) });
  const first = answers[0];
  const total = first?.data?.total ?? 0;
  const rowAt = (i: number): Row | undefined => {
    const page = Math.floor(i / window_);
    return answers[page - range[0]]?.data?.people[i % window_];
  };

  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    onChange: (v) => {
      const items = v.getVirtualItems();
      const from = Math.floor((items[0]?.index ?? 0) / window_);
      const to = Math.floor((items.at(-1)?.index ?? 0) / window_);
      setRange((old) => (old[0] === from && old[1] === to ? old : [from, to]));
    },
  });

  // The row that was gone to, not the one that stands first by itself.
  const [moved, setMoved] = useState(false);
  const chosen = moved ? rowAt(active) : undefined;
  useHere(chosen ? { personId: chosen.id } : null);
  const move = (by: number) => {
    setMoved(true);
    const next = Math.max(0, Math.min(total - 1, active + by));
    setActive(next);
    virtual.scrollToIndex(next);
  };
  const settled = typed === q && first?.data !== undefined && !first.isPlaceholderData;
  const open = useSettled(typed, settled, () => {
    const row = rowAt(active);
    if (row) go(`/people/${row.id}`);
  });
  useKeys({
    "/": () => search.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    PageDown: () => move(15),
    PageUp: () => move(-15),
    Enter: open,
  });

  const heading = (name: string, by?: Sort, wide = true) => (
    <div
      role="columnheader"
      aria-sort={sort === by ? (down ? "descending" : "ascending") : undefined}
      className={wide ? "hidden md:block" : ""}
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

  const openBy = new Map(
    (useOpenLetters().data ?? [])
      .filter((l) => !l.internal)
      .reverse()
      .map((l) => [l.personId, l]),
  );

  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">People</h1>
        <SearchLine
          ref={search}
          label="Search people"
          hint="Name, company, city, email  ( / )"
          value={typed}
          onChange={setTyped}
          onOpen={open}
        />
        <Tabs
          label="Kind"
          choices={[
            ["", "Everybody"],
            ["lead", "Leads"],
            ["contact", "Contacts"],
          ]}
          value={kind}
          onChange={(value) => set({ kind: value })}
        />
        <span role="status" className="text-ink-soft">
          {first?.data ? plural(total, "person", "people") : ""}
        </span>
        <Link to="/people/import" className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline">
          <Upload size={15} aria-hidden /> Import people
        </Link>
      </div>
      <ProblemText error={first?.error} />
      {first?.data && total === 0 ? (
        <Nobody
          searching={q !== "" || kind !== ""}
          onClear={() => {
            setTyped("");
            set({ q: "", kind: "" });
          }}
        />
      ) : (
        <div
          role="table"
          aria-label="People"
          aria-rowcount={total}
          className="flex min-h-0 flex-1 flex-col border-t border-rule bg-sheet"
        >
          <div role="rowgroup">
            <div role="row" className={`${grid} border-b border-rule-strong py-1.5 text-sm text-ink-soft`}>
              {heading("Name", "name", false)}
              {heading("Role")}
              {heading("Company", "company", false)}
              {heading("Status")}
              {heading("Last letter")}
              {heading("Sent", "last")}
              {heading("", undefined, false)}
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
                  <Cells
                    row={rowAt(item.index)}
                    open={openBy.get(rowAt(item.index)?.id ?? 0)}
                    onFocus={() => {
                      setActive(item.index);
                      setMoved(true);
                    }}
                  />
                </div>
              ))}
            </div>
          </div>
        </div>
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

function Nobody({ searching, onClear }: { searching: boolean; onClear: () => void }) {
  return (
    <div className="px-6 py-12 text-ink-soft">
      {searching ? (
        <p>
          Nobody matches your search.{" "}
          <button type="button" className="text-main underline" onClick={onClear}>
            Show everybody
          </button>
        </p>
      ) : (
        <p>
          The people you write to appear here.{" "}
          <Link className="text-main underline" to="/people/import">
            Import your first people from a CSV file
          </Link>
        </p>
      )}
    </div>
  );
}
