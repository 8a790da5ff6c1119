import { useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { Tabs } from "../../components/Tabs";
import { Orders } from "../orders/Orders";
import { MyRuns } from "./MyRuns";
import { PlanShelf } from "./PlanShelf";

const views = [
  ["", "Plans"],
  ["people", "My people"],
  ["shelf", "Starter plans"],
  ["orders", "Standing orders"],
] as const;

/** The plans, who of mine goes through them, and the ready-made ones to copy from. */
export function PlansPage() {
  const go = useNavigate();
  const [params, setParams] = useSearchParams();
  const view = (params.get("view") ?? "") as (typeof views)[number][0];
  const [q, setQ] = useState("");
  const plans = $api.useQuery("get", "/api/plans");
  const queries = useQueryClient();
  const create = async () => {
    const { data, error } = await api.POST("/api/plans", { body: { name: "New plan", steps: [] } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/plans"] });
    go(`/plans/${data.id}`);
  };
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = (plans.data ?? []).filter((p) =>
    words.every((w) => `${p.name} ${p.whenToUse} ${p.owner}`.toLowerCase().includes(w)),
  );
  return (
    <div className="mx-auto w-full max-w-4xl px-4 pt-4 pb-10 sm:px-6">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1 className="font-serif text-2xl font-semibold">Plans</h1>
        <Tabs
          label="What is shown"
          choices={views}
          value={view}
          onChange={(v) => setParams(v ? { view: v } : {}, { replace: true })}
        />
        {view !== "orders" && (
          <Button look="main" className="ml-auto" onClick={() => void create()}>
            <Plus size={15} aria-hidden /> New plan
          </Button>
        )}
      </div>
      {view !== "orders" && (
        <p className="mb-4 text-ink-soft">
          A timed series of letters and tasks that stops by itself when somebody replies.
        </p>
      )}
      {view === "people" && <MyRuns />}
      {view === "shelf" && <PlanShelf />}
      {view === "orders" && <Orders />}
      {view === "" && (
        <>
          <ProblemText error={plans.error} />
          {plans.isPending && <Loading />}
          {plans.data?.length === 0 && (
            <p className="border border-rule bg-sheet px-5 py-8">
              No plans yet. Make one of your own, or copy one of the{" "}
              <Link to="/plans?view=shelf" className="text-main underline">
                starter plans
              </Link>
              .
            </p>
          )}
          {(plans.data?.length ?? 0) > 6 && (
            <div className="mb-3">
              <SearchLine label="Search plans" hint="Name, when to use  ( / )" value={q} onChange={setQ} />
            </div>
          )}
          <ul>
            {shown.map((p) => (
              <Line key={p.id} plan={p} />
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

function Line({ plan: p }: { plan: Schemas["PlanLine"] }) {
  const on = p.counts.going + p.counts.waiting + p.counts.paused;
  return (
    <li>
      <Link
        to={`/plans/${p.id}`}
        className="grid gap-x-6 border-b border-rule bg-sheet px-4 py-2.5 hover:bg-main-soft sm:grid-cols-[minmax(0,1fr)_minmax(0,14rem)]"
      >
        <span className="min-w-0">
          <span className="block truncate font-serif text-lg font-semibold">{p.name}</span>
          <span className="block truncate text-sm text-ink-soft">{p.whenToUse || `Owner: ${p.owner}`}</span>
        </span>
        <span className="min-w-0 self-center">
          <span className="block">
            {p.state !== "ready" && <b className="font-semibold">{p.state === "draft" ? "Draft" : "Withdrawn"} · </b>}
            {plural(p.letters, "letter")}
            {p.steps > p.letters && `, ${plural(p.steps - p.letters, "task")}`} in {plural(p.days, "day")}
          </span>
          <span className="block truncate text-sm text-ink-soft">
            {on > 0 ? `${plural(on, "person", "people")} on it` : "Nobody on it"}
            {p.counts.waiting > 0 && `, ${p.counts.waiting} waiting`}
          </span>
        </span>
      </Link>
    </li>
  );
}
