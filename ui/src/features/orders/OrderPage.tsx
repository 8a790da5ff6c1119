import { useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, statusOf, wordsOf } from "../../api/client";
import { tellGone } from "../../api/gone";
import { useWrite } from "../../api/useWrite";
import { useCtrlKey } from "../../app/keys";
import { useUnsaved } from "../../app/unsaved";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Problem } from "../../components/Problem";
import { ProblemText } from "../../components/ProblemText";
import { momentOf } from "../../components/time";
import { NewWords } from "../plans/NewWords";
import { ActFields } from "./ActFields";
import { ForWhom } from "./ForWhom";
import { SwitchOrder } from "./SwitchOrder";
import { Trial } from "./Trial";
import { WhenFields } from "./WhenFields";

type Order = Schemas["OrderOut"];

/** A standing order: what it acts on, for whom, what it does; its trial and its log. */
export function OrderPage() {
  const id = Number(useParams().id);
  const order = $api.useQuery("get", "/api/orders/{id}", { params: { path: { id } } });
  if (order.error && !order.data)
    return (
      <div className="p-6">
        <ProblemText error={order.error} />
      </div>
    );
  if (!order.data) return <Loading />;
  return <Sheet key={id} order={order.data} />;
}

const written = (o: Order) => ({ name: o.name, said: o.said });

function Sheet({ order }: { order: Order }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [base, setBase] = useState(order);
  const [draft, setDraft] = useState(() => written(order));
  const ids = useRef(order.said.do?.map((_, i) => i) ?? []); // which act is which in this window
  const past = useRef(false);
  const changed = JSON.stringify(draft) !== JSON.stringify(written(base));
  if (order.version !== base.version && !changed) {
    setBase(order);
    setDraft(written(order));
  }
  const { said } = draft;
  const acts = said.do ?? [];
  const set = (part: Partial<typeof said>) => setDraft({ ...draft, said: { ...said, ...part } });
  const path = { params: { path: { id: order.id } } };
  const fresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/orders"] });
  const save = useWrite(
    async () => {
      const answer = await api.PUT("/api/orders/{id}", { ...path, body: { ...draft, version: base.version } });
      if (statusOf(answer.error) === 409 && !answer.error?.detail)
        toast.error("It was changed in another window. Your words are still here.");
      if (statusOf(answer.error) === 404)
        tellGone("This standing order", () => api.POST("/api/orders/{id}/put-back", path));
      return answer;
    },
    async (out) => {
      queries.setQueryData($api.queryOptions("get", "/api/orders/{id}", path).queryKey, out);
      setBase(out);
      setDraft(written(out));
      await fresh();
      toast.success("Saved.");
    },
  );
  const [trial, setTrial] = useState<Schemas["OrderTrial"] | null>(null);
  const attempt = useWrite(
    () => api.POST("/api/order-trial", { body: { ...draft, id: order.id } }),
    (out) => setTrial(out),
  );
  useCtrlKey("Enter", () => {
    if (changed) void save.write();
  });
  const putBack = async () => {
    await api.POST("/api/orders/{id}/put-back", path).catch(noAnswer);
    await fresh();
  };
  const remove = async () => {
    const { error } = await api.DELETE("/api/orders/{id}", path).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    past.current = true;
    toast.success(`“${order.name}” is deleted.`, { action: { label: "Undo", onClick: () => void putBack() } });
    await fresh();
    go("/plans?view=orders");
  };
  const may = order.mayEdit;
  useUnsaved(changed, "this standing order", past);
  return (
    <div className="flex min-h-full flex-col">
      <h1 className="sr-only">{order.name}</h1>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule px-4 py-2.5 sm:px-6">
        <Link to="/plans?view=orders" className="text-main hover:underline">
          Standing orders
        </Link>
        <span className="text-sm text-ink-soft">Owner: {order.owner}; it acts with the owner’s rights</span>
        <span className="ml-auto flex items-center gap-2">
          <SwitchOrder order={order} disabled={changed} />
          {may && <Actions label="More about this order" items={[["Delete", () => void remove()]]} />}
        </span>
      </div>
      <div className="mx-auto grid w-full max-w-6xl flex-1 gap-x-9 gap-y-8 px-3 pt-5 pb-10 sm:px-6 lg:grid-cols-[minmax(0,1fr)_21rem]">
        <fieldset disabled={!may} className="min-w-0 space-y-6">
          <input
            aria-label="Name of the order"
            value={draft.name}
            maxLength={120}
            onChange={(e) => setDraft({ ...draft, name: e.target.value })}
            className="w-full border-b border-transparent bg-transparent font-serif text-2xl font-semibold outline-none hover:border-rule-strong focus:border-main"
          />
          <WhenFields when={said.when} onChange={(when) => set({ when })} />
          <ForWhom text={said.filter ?? ""} onChange={(filter) => set({ filter })} />
          <ul aria-label="What it does" className="space-y-3">
            {acts.map((act, i) => (
              <ActFields
                key={ids.current[i] ?? i}
                act={act}
                at={i}
                deal={said.when.record === "deal"}
                onChange={(one) => set({ do: acts.map((a, k) => (k === i ? one : a)) })}
                onRemove={() => {
                  ids.current = ids.current.filter((_, k) => k !== i);
                  set({ do: acts.filter((_, k) => k !== i) });
                }}
              />
            ))}
          </ul>
          {acts.length < 4 && (
            <Button
              onClick={() => {
                ids.current = [...ids.current, Math.max(-1, ...ids.current) + 1];
                set({ do: [...acts, { do: "task", task: "call" }] });
              }}
            >
              <Plus size={15} aria-hidden /> {acts.length === 0 ? "Add what it does" : "And something else"}
            </Button>
          )}
        </fieldset>
        <aside aria-label="Trial and log" className="min-w-0 space-y-6">
          {!changed &&
            order.wrong.map((w) => (
              <p key={w} className="text-sm text-stop">
                {w}
              </p>
            ))}
          {order.partNews && <NewWords news={order.partNews} of={{ order: order.id, seen: order.partSeen }} />}
          <div>
            <Button disabled={attempt.busy || !may} onClick={() => void attempt.write()}>
              Try it on the past 30 days
            </Button>
            <Problem>{attempt.problem}</Problem>
          </div>
          {trial && <Trial trial={trial} />}
          <Log order={order} />
        </aside>
      </div>
      {may && (
        <section
          aria-label="Save"
          className="sticky bottom-0 z-20 flex flex-wrap items-center gap-3 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
        >
          <p role="status" className="text-sm text-ink-soft">
            {changed ? "Not saved yet" : order.on ? "Saved; it is on" : "Saved; it is off"}
          </p>
          <Problem>{save.problem}</Problem>
          <span className="ml-auto flex gap-3">
            {changed && (
              <Button look="quiet" onClick={() => setDraft(written(base))}>
                Undo my changes
              </Button>
            )}
            <Button look="main" disabled={!changed || save.busy} onClick={() => void save.write()}>
              Save the order
            </Button>
          </span>
        </section>
      )}
    </div>
  );
}

const results = { done: "", waiting: "text-advice", left: "text-ink-soft", failed: "text-stop" } as const;

/** What an order did, and why. */
function Log({ order }: { order: Order }) {
  const log = $api.useQuery(
    "get",
    "/api/orders/{id}/log",
    { params: { path: { id: order.id } } },
    { refetchInterval: 5000 },
  );
  return (
    <section aria-label="What it did">
      <h2 className="mb-1 font-semibold">What it did</h2>
      <ProblemText error={log.error} />
      {log.data?.length === 0 && <p className="text-sm text-ink-soft">Nothing yet.</p>}
      <ul>
        {log.data?.map((e) => (
          <li key={e.id} className="border-b border-rule py-1.5">
            <span className="flex flex-wrap items-baseline gap-x-3">
              <Link
                to={e.letterId ? `/letters/${e.letterId}` : e.personId ? `/people/${e.personId}` : `/deals/${e.dealId}`}
                className="font-serif font-medium hover:underline"
              >
                {e.person}
              </Link>
              <span className="text-sm text-ink-soft">{momentOf(e.at)}</span>
            </span>
            <span className={`block text-sm ${results[e.result]}`}>{e.text}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
