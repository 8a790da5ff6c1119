import { keepPreviousData } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { $api } from "../../api/client";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { useTyped } from "../../app/useTyped";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { NewCompany } from "../records/NewCompany";

const more = 100;

/** The companies by name. */
export function CompaniesPage() {
  const go = useNavigate();
  const [params, setParams] = useSearchParams();
  const q = params.get("q") ?? "";
  const [typed, setTyped] = useTyped(q, (words) => {
    setParams(words ? { q: words } : {}, { replace: true });
    setLimit(more);
  });
  const [limit, setLimit] = useState(more);
  const [making, setMaking] = useState(false);
  const search = useRef<HTMLInputElement>(null);
  useKeys({ "/": () => search.current?.focus() });
  const companies = $api.useQuery(
    "get",
    "/api/companies",
    { params: { query: { q, limit } } },
    { placeholderData: keepPreviousData },
  );
  const list = companies.data?.companies ?? [];
  const total = companies.data?.total ?? 0;
  const open = useSettled(typed, typed === q && companies.data !== undefined && !companies.isPlaceholderData, () => {
    if (list[0]) go(`/companies/${list[0].id}`);
  });
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
          {companies.data && plural(total, "company", "companies")}
        </span>
        <button
          type="button"
          onClick={() => setMaking(true)}
          className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline"
        >
          <Plus size={15} aria-hidden /> New company
        </button>
      </div>
      <ProblemText error={companies.error} />
      {companies.isPending && <Loading />}
      {companies.data && total === 0 && (
        <p className="px-6 py-10 text-ink-soft">
          {q ? "No companies match your search." : "The companies of your contacts appear here."}
        </p>
      )}
      {list.length > 0 && (
        <div className="min-h-0 flex-1 overflow-auto border-t border-rule bg-sheet">
          <table aria-label="Companies" className="w-full table-fixed">
            <thead>
              <tr className="border-b border-rule-strong text-left text-sm text-ink-soft">
                <th className="px-4 py-1.5 font-normal sm:px-6">Company</th>
                <th className="py-1.5 font-normal">City</th>
                <th className="hidden py-1.5 font-normal md:table-cell">Industry</th>
                <th className="hidden py-1.5 font-normal md:table-cell">Owner</th>
                <th className="w-20 py-1.5 text-right font-normal">Contacts</th>
                <th className="hidden w-28 py-1.5 pr-6 text-right font-normal md:table-cell">Open deals</th>
              </tr>
            </thead>
            <tbody>
              {list.map((c) => (
                <tr key={c.id} className="border-b border-rule hover:bg-ground">
                  <td className="truncate px-4 py-1 sm:px-6">
                    <Link to={`/companies/${c.id}`} className="font-serif text-[1.05rem] font-medium hover:underline">
                      {c.name}
                    </Link>
                  </td>
                  <td className="truncate">{c.city}</td>
                  <td className="hidden truncate text-ink-soft md:table-cell">{c.industry}</td>
                  <td className="hidden truncate text-ink-soft md:table-cell">{c.owner}</td>
                  <td className="pr-4 text-right tabular-nums md:pr-0">{c.people || ""}</td>
                  <td className="hidden pr-6 text-right tabular-nums md:table-cell">{c.deals || ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {list.length < total && (
            <Button className="m-4" onClick={() => setLimit(limit + more)}>
              Show more of the {total}
            </Button>
          )}
        </div>
      )}
      {making && <NewCompany onClose={() => setMaking(false)} />}
    </div>
  );
}
