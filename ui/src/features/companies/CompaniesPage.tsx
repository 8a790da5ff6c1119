import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api } from "../../api/client";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { useTyped } from "../../app/useTyped";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { NewCompany } from "../records/NewCompany";
import { ColumnsButton, RecordTable } from "../tables/RecordTable";
import { useActive } from "../tables/useActive";
import { useRows } from "../tables/useRows";
import { useTableParams } from "../tables/useTableParams";

/** The companies, by name unless somebody sorts them. */
export function CompaniesPage() {
  const go = useNavigate();
  const scroller = useRef<HTMLDivElement>(null);
  const search = useRef<HTMLInputElement>(null);
  const [making, setMaking] = useState(false);
  const table = useTableParams("company", () => scroller.current?.scrollTo({ top: 0 }));
  const { q, sort, down, columns } = table;
  const [typed, setTyped] = useTyped(q, (words) => table.set({ q: words }));
  const query = { q, sort, down, columns };
  const rows = useRows(
    {
      path: "/api/companies",
      query,
      get: (offset, limit, signal) =>
        api.GET("/api/companies", { params: { query: { ...query, offset, limit } }, signal }),
    },
    (page) => page.companies,
    scroller,
  );
  const [active, setActive] = useActive(rows, table);
  const open = useSettled(typed, typed === q && rows.settled, () => {
    const row = rows.rowAt(active);
    if (row) go(`/companies/${row.id}`);
  });
  useKeys({ "/": () => search.current?.focus(), Enter: open });
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">Companies</h1>
        <SearchLine
          ref={search}
          label="Search companies"
          hint="Name, city  ( / )"
          value={typed}
          onChange={setTyped}
          onOpen={open}
        />
        <span role="status" className="text-ink-soft">
          {rows.first && plural(rows.total, "company", "companies")}
        </span>
        <ColumnsButton table={table} columns={rows.columns} />
        <button
          type="button"
          onClick={() => setMaking(true)}
          className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline"
        >
          <Plus size={15} aria-hidden /> New company
        </button>
      </div>
      <ProblemText error={rows.error} />
      {!rows.first && !rows.error && <Loading />}
      {rows.first && rows.total === 0 && (
        <p className="px-6 py-10 text-ink-soft">
          {q ? "No companies match your search." : "The companies of your contacts appear here."}
        </p>
      )}
      {rows.total > 0 && (
        <div className="flex min-h-0 flex-1 flex-col border-t border-rule">
          <RecordTable
            label="Companies"
            name={{ label: "Company", by: "company.name" }}
            table={{ ...table, sort: sort || "company.name" }}
            rows={rows}
            scroller={scroller}
            active={active}
            narrow="company.city"
            title={(c, at) => (
              <Link
                to={`/companies/${c.id}`}
                onFocus={() => setActive(at)}
                className="font-serif text-[1.05rem] font-medium hover:underline"
              >
                {c.name}
              </Link>
            )}
          />
        </div>
      )}
      {making && <NewCompany onClose={() => setMaking(false)} />}
    </div>
  );
}
