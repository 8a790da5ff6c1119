import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { $api } from "../../api/client";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { Tabs } from "../../components/Tabs";
import { dayOf } from "../../components/time";
import { NewDeal } from "../records/NewDeal";
import { DealsByStage } from "./DealsByStage";

/** The deals, the open ones first. */
export function DealsPage() {
  const go = useNavigate();
  const [q, setQ] = useState("");
  const [params, setParams] = useSearchParams();
  const view = params.get("view") === "stages" ? "stages" : "list";
  const [making, setMaking] = useState(false);
  const search = useRef<HTMLInputElement>(null);
  useKeys({ "/": () => search.current?.focus() });
  const deals = $api.useQuery("get", "/api/deals", { params: { query: { q } } }, { placeholderData: (d) => d });
  const open = useSettled(q, deals.data !== undefined && !deals.isPlaceholderData, () => {
    const first = deals.data?.[0];
    if (first) go(`/deals/${first.id}`);
  });
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-4 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">Deals</h1>
        <SearchLine
          ref={search}
          label="Search deals"
          hint="Deal, company, contact, stage"
          value={q}
          onChange={setQ}
          onOpen={open}
        />
        <span role="status" className="text-ink-soft">
          {deals.data && plural(deals.data.length, "deal")}
        </span>
        <Tabs
          label="Show as"
          choices={[
            ["list", "List"],
            ["stages", "By stage"],
          ]}
          value={view}
          onChange={(v) => setParams(v === "stages" ? { view: v } : {}, { replace: true })}
        />
        <button
          type="button"
          onClick={() => setMaking(true)}
          className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline"
        >
          <Plus size={15} aria-hidden /> New deal
        </button>
      </div>
      <ProblemText error={deals.error} />
      {deals.isPending && <Loading />}
      {deals.data?.length === 0 && (
        <p className="px-6 py-10 text-ink-soft">{q ? "No deals match your search." : "There are no deals yet."}</p>
      )}
      {deals.data && deals.data.length > 0 && view === "stages" && <DealsByStage deals={deals.data} />}
      {deals.data && deals.data.length > 0 && view === "list" && (
        <div className="min-h-0 flex-1 overflow-auto border-t border-rule bg-sheet">
          <table aria-label="Deals" className="w-full table-fixed">
            <thead>
              <tr className="border-b border-rule-strong text-left text-sm text-ink-soft">
                <th className="px-4 py-1.5 font-normal sm:px-6">Deal</th>
                <th className="hidden py-1.5 font-normal md:table-cell">Company</th>
                <th className="hidden py-1.5 font-normal md:table-cell">Main contact</th>
                <th className="w-24 py-1.5 font-normal">Stage</th>
                <th className="w-32 py-1.5 pr-4 text-right font-normal">Amount</th>
                <th className="hidden w-32 py-1.5 pr-6 text-right font-normal md:table-cell">Closes</th>
              </tr>
            </thead>
            <tbody>
              {deals.data.map((d) => (
                <tr key={d.id} className="border-b border-rule hover:bg-ground">
                  <td className="truncate px-4 py-1 sm:px-6">
                    <Link to={`/deals/${d.id}`} className="font-serif text-[1.05rem] font-medium hover:underline">
                      {d.name}
                    </Link>
                  </td>
                  <td className="hidden truncate md:table-cell">{d.company}</td>
                  <td className="hidden truncate md:table-cell">
                    {d.contact && (
                      <Link to={`/people/${d.mainContactId}`} className="hover:underline">
                        {d.contact}
                      </Link>
                    )}
                  </td>
                  <td className="truncate text-ink-soft">{d.stage}</td>
                  <td className="pr-4 text-right tabular-nums">{d.amount}</td>
                  <td className="hidden pr-6 text-right text-ink-soft md:table-cell">
                    {d.closeDate && dayOf(d.closeDate)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {making && <NewDeal onClose={() => setMaking(false)} />}
    </div>
  );
}
