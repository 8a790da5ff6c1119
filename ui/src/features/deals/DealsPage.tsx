import { Plus } from "lucide-react";
import { type ReactNode, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { $api, api } from "../../api/client";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { useTyped } from "../../app/useTyped";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { Tabs } from "../../components/Tabs";
import { NewDeal } from "../records/NewDeal";
import { ColumnsButton, RecordTable } from "../tables/RecordTable";
import { useActive } from "../tables/useActive";
import { useRows } from "../tables/useRows";
import { useTableParams } from "../tables/useTableParams";
import { DealsByStage } from "./DealsByStage";

/** How many deals stand in the columns of their stages. */
const most = 500;

/** The deals, the open ones first unless somebody sorts them. */
export function DealsPage() {
  const go = useNavigate();
  const scroller = useRef<HTMLDivElement>(null);
  const search = useRef<HTMLInputElement>(null);
  const [making, setMaking] = useState(false);
  const table = useTableParams("deal", () => scroller.current?.scrollTo({ top: 0 }));
  const { q, sort, down, columns } = table;
  const view = table.params.get("view") === "stages" ? "stages" : "list";
  const [typed, setTyped] = useTyped(q, (words) => table.set({ q: words }));
  const query = { q, sort, down, columns };
  const rows = useRows(
    {
      path: "/api/deals",
      query,
      get: (offset, limit, signal) => api.GET("/api/deals", { params: { query: { ...query, offset, limit } }, signal }),
    },
    (page) => page.deals,
    scroller,
  );
  const [active, setActive] = useActive(rows, table);
  const open = useSettled(typed, typed === q && rows.settled, () => {
    const row = rows.rowAt(active);
    if (row) go(`/deals/${row.id}`);
  });
  useKeys({ "/": () => search.current?.focus(), Enter: open });
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">Deals</h1>
        <SearchLine
          ref={search}
          label="Search deals"
          hint="Deal, company, contact, stage"
          value={typed}
          onChange={setTyped}
          onOpen={open}
        />
        <span role="status" className="text-ink-soft">
          {rows.first && plural(rows.total, "deal")}
        </span>
        <Tabs
          label="Show as"
          choices={[
            ["list", "List"],
            ["stages", "By stage"],
          ]}
          value={view}
          onChange={(v) => table.set({ view: v === "stages" ? v : "" })}
        />
        {view === "list" && <ColumnsButton table={table} columns={rows.columns} />}
        <button
          type="button"
          onClick={() => setMaking(true)}
          className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline"
        >
          <Plus size={15} aria-hidden /> New deal
        </button>
      </div>
      <ProblemText error={rows.error} />
      {!rows.first && !rows.error && <Loading />}
      {rows.first && rows.total === 0 && (
        <p className="px-6 py-10 text-ink-soft">{q ? "No deals match your search." : "There are no deals yet."}</p>
      )}
      {rows.total > 0 && view === "stages" && <Stages q={q} />}
      {rows.total > 0 && view === "list" && (
        <div className="flex min-h-0 flex-1 flex-col border-t border-rule">
          <RecordTable
            label="Deals"
            name={{ label: "Deal", by: "deal.name" }}
            table={table}
            rows={rows}
            scroller={scroller}
            active={active}
            narrow="deal.amount"
            title={(d, at) => (
              <Link
                to={`/deals/${d.id}`}
                onFocus={() => setActive(at)}
                className="font-serif text-[1.05rem] font-medium hover:underline"
              >
                {d.name}
              </Link>
            )}
            cell={(d, column): ReactNode =>
              column.path === "contact" && d.contact ? (
                <Link to={`/people/${d.mainContactId}`} className="hover:underline">
                  {d.contact}
                </Link>
              ) : undefined
            }
          />
        </div>
      )}
      {making && <NewDeal onClose={() => setMaking(false)} />}
    </div>
  );
}

function Stages({ q }: { q: string }) {
  const page = $api.useQuery(
    "get",
    "/api/deals",
    { params: { query: { q, limit: most } } },
    { placeholderData: (d) => d },
  );
  if (!page.data) return <Loading />;
  return (
    <>
      {page.data.total > page.data.deals.length && (
        <p className="border-t border-rule bg-sheet px-4 py-1.5 text-sm text-ink-soft sm:px-6">
          The first {plural(page.data.deals.length, "deal")} of {plural(page.data.total, "deal")}, those that close next
          first. Search for the others.
        </p>
      )}
      <DealsByStage deals={page.data.deals} />
    </>
  );
}
