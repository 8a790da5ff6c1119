import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { times } from "../../components/plural";
import { momentOf } from "../../components/time";
import { SwitchOrder } from "./SwitchOrder";

/** The rules that act by themselves, and the switch that stops them all. */
export function Orders() {
  const go = useNavigate();
  const queries = useQueryClient();
  const orders = $api.useQuery("get", "/api/orders", {}, { refetchInterval: 10_000 });
  const fresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/orders"] });
  const create = async () => {
    const { data, error } = await api
      .POST("/api/orders", { body: { name: "New standing order", said: { when: { on: "replied" }, do: [] } } })
      .catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    await fresh();
    go(`/orders/${data.id}`);
  };
  const halt = async (stopped: boolean) => {
    const { error } = await api.PUT("/api/orders-stopped", { body: { stopped } }).catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    await fresh();
  };
  if (orders.isPending) return <Loading />;
  const o = orders.data;
  return (
    <>
      <ProblemText error={orders.error} />
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <p className="min-w-0 flex-1 text-ink-soft">
          A standing order acts by itself when something happens. Try it on the past 30 days before you switch it on.
        </p>
        <Button onClick={() => void create()}>New standing order</Button>
        {o?.mayStop && !o.stopped && o.orders.some((x) => x.on) && (
          <Button onClick={() => void halt(true)}>Stop all of them</Button>
        )}
      </div>
      {o?.stopped && (
        <div className="mb-4 flex flex-wrap items-center gap-3 border border-stop bg-stop-soft px-4 py-2">
          <p className="min-w-0 flex-1 text-stop">
            {o.stoppedBy} stopped all standing orders{o.stoppedAt && ` on ${momentOf(o.stoppedAt)}`}. What happens
            meanwhile is not made up for.
          </p>
          {o.mayStop && <Button onClick={() => void halt(false)}>Let them act again</Button>}
        </div>
      )}
      {o?.orders.length === 0 && (
        <p className="border border-rule bg-sheet px-5 py-8">
          No standing orders yet. One could make a task when somebody clicks a link, or start a plan when a lead is
          qualified.
        </p>
      )}
      <ul>
        {o?.orders.map((x) => (
          <li
            key={x.id}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule bg-sheet px-4 py-2.5"
          >
            <Link to={`/orders/${x.id}`} className="min-w-0 flex-1 basis-72 hover:underline">
              <span className="block truncate font-serif text-lg font-semibold">{x.name}</span>
              <span className="line-clamp-2 text-sm text-ink-soft">{x.sentence}</span>
              {x.on && x.wrong.length > 0 && <span className="block text-sm text-stop">{x.wrong[0]}</span>}
            </Link>
            <span className="text-sm text-ink-soft">
              {!x.mayEdit && `${x.owner} · `}
              {x.acted > 0 ? `acted ${times(x.acted)} in 30 days` : "has not acted in 30 days"}
            </span>
            <SwitchOrder order={x} />
          </li>
        ))}
      </ul>
    </>
  );
}
