import { Plus, Upload } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { useTyped } from "../../app/useTyped";
import { useHere } from "../../app/writing";
import { Actions } from "../../components/Actions";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { Tabs } from "../../components/Tabs";
import { FilterButton, FilterLine } from "../lists/FilterLine";
import { exportPeople, PickedStrip } from "../lists/PickedStrip";
import { ListSelect, type Looked, SavedLists } from "../lists/SavedLists";
import { usePicked, type Which } from "../lists/usePicked";
import { NewPerson } from "../records/NewPerson";
import { ColumnsButton } from "../tables/RecordTable";
import { useActive } from "../tables/useActive";
import { PeopleTable } from "./PeopleTable";
import { useChosenPeople, usePeople } from "./usePeople";

/** Everybody that can be written to, with the search and the keys that lead through them. */
export function PeoplePage() {
  const go = useNavigate();
  const [making, setMaking] = useState(false);
  const search = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const chosen = useChosenPeople(() => scroller.current?.scrollTo({ top: 0 }));
  const { q, kind, where, set } = chosen;
  const [filtering, setFiltering] = useState(false);
  const looked = { filter: where, sort: chosen.sort, down: chosen.down, columns: chosen.columns };
  const [typed, setTyped] = useTyped(q, (words) => set({ q: words }));
  const openList = (l: Looked) => {
    setTyped("");
    set({ where: l.filter, sort: l.sort, down: l.down ? "true" : "", columns: l.columns, q: "", kind: "" });
  };
  const which: Which = {
    ...(q && { q }),
    ...(kind && { kind }),
    ...(where && { where }),
    sort: chosen.sort,
    down: chosen.down,
  };
  const picked = usePicked(which);
  const rows = usePeople(chosen, scroller);
  const { total, rowAt } = rows;

  const [active, setActive, moved] = useActive(rows, chosen);
  const here = moved ? rowAt(active) : undefined;
  useHere(here ? { personId: here.id } : null);
  const pick = (range: boolean) => {
    const row = rowAt(active);
    if (row) picked.toggle(active, row.id, range);
  };
  const settled = typed === q && rows.settled;
  const open = useSettled(typed, settled, () => {
    const row = rowAt(active);
    if (row) go(`/people/${row.id}`);
  });
  useKeys({
    "/": () => search.current?.focus(),
    Enter: open,
    x: () => pick(false),
    X: () => pick(true),
  });

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
        <span className="lg:hidden">
          <ListSelect at={where} onOpen={openList} />
        </span>
        <FilterButton open={filtering} on={where !== ""} onToggle={() => setFiltering(!filtering)} />
        <ColumnsButton table={chosen} columns={rows.columns} />
        <span role="status" className="text-ink-soft">
          {rows.first && (rows.counted ? "" : "more than ")}
          {rows.first && plural(rows.counted ? total : total - 1, "person", "people")}
        </span>
        <button
          type="button"
          onClick={() => setMaking(true)}
          className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline"
        >
          <Plus size={15} aria-hidden /> New person
        </button>
        <Link to="/people/import" className="inline-flex items-center gap-1.5 text-main hover:underline">
          <Upload size={15} aria-hidden /> Import people
        </Link>
        <Actions
          label="Export these people"
          items={[
            ["Save as CSV", () => void exportPeople(which, "csv")],
            ["Save as vCard", () => void exportPeople(which, "vcard")],
          ]}
        />
      </div>
      <FilterLine looked={looked} open={filtering} onFilter={(text) => set({ where: text })} />
      <ProblemText error={rows.error} />
      {rows.unsorted && (
        <p className="border-t border-rule bg-sheet px-4 py-1.5 text-sm text-ink-soft sm:px-6">
          A lot of people match, so the newest come first. Type more, or click a heading to sort.
        </p>
      )}
      <div className="grid min-h-0 flex-1 border-t border-rule lg:grid-cols-[15rem_minmax(0,1fr)]">
        <div className="hidden min-h-0 border-r border-rule lg:block">
          <SavedLists at={where} onOpen={openList} />
        </div>
        {rows.first && total === 0 ? (
          <Nobody
            searching={q !== "" || kind !== "" || where !== ""}
            onClear={() => {
              setTyped("");
              set({ q: "", kind: "", where: "" });
            }}
          />
        ) : (
          <PeopleTable
            chosen={chosen}
            rows={rows}
            scroller={scroller}
            active={active}
            picked={picked}
            onActive={setActive}
          />
        )}
      </div>
      <PickedStrip picked={picked} total={total} />
      {making && <NewPerson kind={kind || "lead"} onClose={() => setMaking(false)} />}
    </div>
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
