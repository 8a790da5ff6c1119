import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useNavigate, useParams, useSearchParams } from "react-router";
import { toast } from "sonner";
import { $api, api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { useCtrlKey } from "../../app/keys";
import { useSettledValue } from "../../app/useSettledValue";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Loading } from "../../components/Loading";
import { Problem } from "../../components/Problem";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { dayOf } from "../../components/time";
import { ChoosePerson, type Chosen } from "../records/Choose";
import { Asks, type Fills } from "./Asks";
import { OutlookView } from "./OutlookView";
import { RulerView } from "./RulerView";
import { ZoneSelect } from "./ZoneSelect";

/** Who a plan is to be started with, as a link to this screen says it. */
export type Starting = { people?: number[] };

const line = "block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main";

/** Before a plan is started: the real dates and letters for one person, or what it looks like for many. */
export function StartPage() {
  const fixed = Number(useParams().id ?? 0);
  const [params, setParams] = useSearchParams();
  const state = useLocation().state as Starting | null;
  const plans = $api.useQuery("get", "/api/plans");
  const ready = (plans.data ?? []).filter((p) => p.state === "ready" && p.mayUse);
  const plan = fixed || Number(params.get("plan") ?? 0);
  const [picked, setPicked] = useState<Chosen[]>([]);
  const one = Number(params.get("person") ?? 0);
  const list = Number(params.get("list") ?? 0);
  const given = state?.people ?? (one ? [one] : []);
  const people = given.length > 0 ? given : picked.map((p) => p.id);
  const chosen = plans.data?.find((p) => p.id === plan);
  const set = (part: Record<string, string>) =>
    setParams(
      (now) => {
        for (const [k, v] of Object.entries(part)) v ? now.set(k, v) : now.delete(k);
        return now;
      },
      { replace: true, state },
    );
  if (plans.isPending) return <Loading />;
  return (
    <div className="mx-auto w-full max-w-6xl px-3 pt-4 pb-10 sm:px-6">
      <h1 className="mb-1 font-serif text-2xl font-semibold">{chosen ? `Start “${chosen.name}”` : "Start a plan"}</h1>
      <ProblemText error={plans.error} />
      {!fixed && (
        <label className="mt-3 block max-w-md">
          <span className="block text-sm text-ink-soft">Plan</span>
          <select value={plan || ""} onChange={(e) => set({ plan: e.target.value })} className={line}>
            <option value="">choose …</option>
            {ready.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
      )}
      {!fixed && ready.length === 0 && (
        <p className="mt-3 border border-rule bg-sheet px-5 py-6">
          No plan is ready yet.{" "}
          <Link to="/plans?view=shelf" className="text-main underline">
            Copy a starter plan
          </Link>{" "}
          and make it ready.
        </p>
      )}
      {given.length === 0 && (
        <Who picked={picked} list={list} onPicked={setPicked} onList={(id) => set({ list: id })} />
      )}
      {plan > 0 && (people.length > 0 || list > 0) && (
        <With
          key={`${plan} ${people.join()} ${list}`}
          plan={plan}
          people={people}
          list={given.length === 0 && picked.length === 0 ? list : 0}
          letter={people.length === 1 ? Number(params.get("letter") ?? 0) : 0}
          deal={people.length === 1 ? Number(params.get("deal") ?? 0) : 0}
          onDeal={(id) => set({ deal: id })}
        />
      )}
    </div>
  );
}

type WhoProps = { picked: Chosen[]; list: number; onPicked: (p: Chosen[]) => void; onList: (id: string) => void };

/** Who is to be started: people one by one, or a saved list. */
function Who({ picked, list, onPicked, onList }: WhoProps) {
  const lists = ($api.useQuery("get", "/api/lists").data ?? []).filter((l) => !l.problem);
  const [at, setAt] = useState(0); // so that the line is empty again
  return (
    <div className="mt-3 grid max-w-3xl gap-x-6 gap-y-3 sm:grid-cols-2">
      <div>
        <ChoosePerson
          key={at}
          label={picked.length > 0 ? "Add another person" : "Person"}
          value={null}
          onChoose={(p) => {
            if (!p) return;
            if (!picked.some((x) => x.id === p.id)) onPicked([...picked, p]);
            setAt(at + 1);
          }}
        />
        <ul className="mt-1 flex flex-wrap gap-x-4">
          {picked.map((p) => (
            <li key={p.id}>
              {p.name}{" "}
              <button
                type="button"
                className="text-sm text-main underline"
                onClick={() => onPicked(picked.filter((x) => x.id !== p.id))}
              >
                remove<span className="sr-only"> {p.name}</span>
              </button>
            </li>
          ))}
        </ul>
      </div>
      {picked.length === 0 && (
        <label className="block">
          <span className="block text-sm text-ink-soft">or everybody in the list</span>
          <select value={list || ""} onChange={(e) => onList(e.target.value)} className={line}>
            <option value="">choose …</option>
            {lists.map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}

type How = { zone?: string; at?: string; letterId?: number; dealId?: number; fills: Fills; anyway: boolean };

type WithProps = {
  plan: number;
  people: number[];
  list: number;
  letter: number;
  deal: number;
  onDeal: (id: string) => void;
};

function With({ plan, people, list, letter, deal, onDeal }: WithProps) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [zone, setZone] = useState("");
  const [at, setAt] = useState("");
  const [fills, setFills] = useState<Fills>({});
  const [anyway, setAnyway] = useState(false);
  const [look, setLook] = useState(0);
  const many = people.length !== 1;
  const filled = Object.fromEntries(Object.entries(fills).filter(([, v]) => v.trim() !== ""));
  const how: How = {
    ...(zone && { zone }),
    ...(at && { at }),
    ...(letter && { letterId: letter }),
    ...(deal && { dealId: deal }),
    fills: filled,
    anyway,
  };
  const settled = JSON.parse(useSettledValue(JSON.stringify(how), 250)) as How;
  const path = { params: { path: { id: plan } } };
  const who = list ? { listId: list } : { people };
  const outlook = $api.useQuery(
    "post",
    "/api/plans/{id}/outlook",
    { ...path, body: { ...settled, ...who } },
    { enabled: many, placeholderData: (d) => d, retry: false },
  );
  const seen = many ? look : (people[0] ?? 0);
  const ruler = $api.useQuery(
    "post",
    "/api/plans/{id}/ruler",
    { ...path, body: { ...settled, personId: seen } },
    { enabled: seen > 0, placeholderData: (d) => d, retry: false },
  );
  const start = useWrite(
    () => api.POST("/api/plans/{id}/start", { ...path, body: { ...how, ...who } }),
    async (out) => {
      await queries.invalidateQueries();
      const left = out.left.length > 0 ? ` ${plural(out.left.length, "other was", "others were")} left out.` : "";
      if (out.runs.length === 0) return void toast.error(out.left[0]?.why ?? "Nobody was started.");
      toast.success(`${plural(out.runs.length, "person is", "people are")} on their way.${left}`);
      go(out.runs.length === 1 ? `/runs/${out.runs[0]}` : `/plans/${plan}`);
    },
  );
  const r = ruler.data;
  const n = many ? (outlook.data?.people ?? 0) : r && r.why.length === 0 && (anyway || !(r.onPlan || r.before)) ? 1 : 0;
  useCtrlKey("Enter", () => {
    if (n > 0) void start.write();
  });
  return (
    <div className="mt-5 grid gap-x-9 gap-y-6 lg:grid-cols-[minmax(0,1fr)_17rem]">
      <div className="min-w-0">
        <ProblemText error={many ? (outlook.error ?? ruler.error) : ruler.error} />
        {many && outlook.data && <OutlookView outlook={outlook.data} at={look} onLook={setLook} />}
        {r && seen > 0 && (
          <section aria-label={`The plan for ${r.person}`}>
            <h2 className="mb-2 font-serif text-xl font-semibold">{r.person}</h2>
            {r.why.map((w) => (
              <p key={w} className="mb-2 text-stop">
                {w}.
              </p>
            ))}
            {r.before && !r.onPlan && (
              <p className="mb-2 text-advice">Went through this plan before; it ended on {dayOf(r.before)}.</p>
            )}
            {r.onPlan && <p className="mb-2 text-advice">Going through the plan “{r.onPlan}” at the moment.</p>}
            <p className="mb-3 text-sm text-ink-soft">
              {r.ready === r.letters
                ? `All ${plural(r.letters, "letter")} ${r.letters === 1 ? "is" : "are"} complete.`
                : `${r.ready} of ${plural(r.letters, "letter")} are complete; the others wait for you on their day.`}{" "}
              Clock: {r.zone}
              {r.zoneKnown ? "" : " (yours; theirs isn’t known)"}
              {r.country && ` · Holidays: ${r.country}`}
            </p>
            <RulerView ruler={r} {...(!many && { fills, onFills: setFills })} />
          </section>
        )}
        {(many ? outlook.isPending : ruler.isPending) && <Loading what="Working out the dates" />}
      </div>
      <aside aria-label="How it goes" className="space-y-4">
        {!many && r && (r.deals.length > 1 || deal > 0) && (
          <label className="block">
            <span className="block text-sm text-ink-soft">About the deal</span>
            <select value={r.dealId ?? ""} onChange={(e) => onDeal(e.target.value)} className={line}>
              <option value="">none</option>
              {r.deals.map((d) => (
                <option key={d.id} value={d.id}>
                  {d.name}
                </option>
              ))}
            </select>
          </label>
        )}
        <ZoneSelect label="Clock for this run" none="as the plan says" value={zone} onChange={setZone} />
        <Input
          label="Hour for this run"
          hint="Empty: as the plan says."
          type="time"
          value={at}
          onChange={(e) => setAt(e.target.value.slice(0, 5))}
        />
        {many && outlook.data && outlook.data.asks.length > 0 && (
          <section aria-label="Blanks">
            <h2 className="font-semibold">Blanks, for everybody</h2>
            <p className="text-sm text-ink-soft">What you leave open waits for you on its day.</p>
            <Asks asks={outlook.data.asks} fills={fills} onFills={setFills} />
          </section>
        )}
        {(r?.onPlan ||
          r?.before ||
          outlook.data?.left.some((l) => l.why.startsWith("Is going") || l.why.startsWith("Went through")) ||
          anyway) && (
          <label className="flex items-baseline gap-2">
            <input type="checkbox" checked={anyway} onChange={(e) => setAnyway(e.target.checked)} />
            <span>Start people who are on another plan, or went through this one, too</span>
          </label>
        )}
        <Problem>{start.problem}</Problem>
        <Button look="main" disabled={n === 0 || start.busy} onClick={() => void start.write()}>
          {many ? `Start ${plural(n, "person", "people")}` : `Start ${r?.person ?? ""}`}
        </Button>
        <p className="text-sm text-ink-soft">
          It stops by itself when they reply, unsubscribe or a letter bounces, and when the deal is won or lost.
        </p>
      </aside>
    </div>
  );
}
