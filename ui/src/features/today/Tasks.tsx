import { useQueryClient } from "@tanstack/react-query";
import { Check, PenLine } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { clockNow } from "../../app/clock";
import { useKeys } from "../../app/keys";
import { useHere, useWriting } from "../../app/writing";
import { Button } from "../../components/Button";
import { clockOf, dueOf, inDays } from "../../components/time";
import { PlansOf } from "../plans/ForPerson";
import { icons } from "../plans/StepLine";
import { NewTask } from "./NewTask";

type Task = Schemas["Task"];

/** What is done with tasks: settled, put off. */
export function useTaskActs() {
  const queries = useQueryClient();
  const fresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/tasks"] });
  const settle = async (t: Task, done: boolean): Promise<void> => {
    const { error } = await api
      .POST("/api/tasks/{id}/done", { params: { path: { id: t.id } }, body: { done } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await fresh();
    if (done) toast("Done.", { action: { label: "Undo", onClick: () => void settle(t, false) } });
  };
  const putOff = async (t: Task, days: number, back = ""): Promise<void> => {
    const to = back || new Date(`${inDays(days)}T${clockOf(t.dueAt)}`).toISOString();
    const { error } = await api
      .POST("/api/tasks/{id}/snooze", { params: { path: { id: t.id } }, body: { to } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await fresh();
    if (!back)
      toast(`Put off until ${dueOf(to)}.`, {
        action: { label: "Undo", onClick: () => void putOff(t, 0, t.dueAt) },
      });
  };
  return { settle, putOff };
}

/** The line of a task that has the focus moves on, so that the next key is for the next one. */
function focusAfter(row: Element | null | undefined) {
  const next = (row?.nextElementSibling ?? row?.previousElementSibling)?.querySelector<HTMLElement>("a, button");
  requestAnimationFrame(() => next?.focus());
}

/** Tasks as ruled lines. The one that has the focus takes keys: d done, t tomorrow, n next week, w write. */
export function Tasks({ list, named = true }: { list: Task[]; named?: boolean }) {
  const write = useWriting();
  const { settle, putOff } = useTaskActs();
  const [at, setAt] = useState(0);
  const here = list.find((t) => t.id === at);
  const one = here?.personId ? { personId: here.personId, ...(here.dealId && { dealId: here.dealId }) } : null;
  useHere(named && one ? one : undefined); // a person's own page says it itself
  const onHere = (act: (t: Task) => void) => (event: KeyboardEvent) => {
    const row = event.target instanceof Element ? event.target.closest("li[data-task]") : null;
    const task = list.find((t) => String(t.id) === row?.getAttribute("data-task"));
    if (!task) return;
    focusAfter(row);
    act(task);
  };
  useKeys({
    d: onHere((t) => void settle(t, true)),
    t: onHere((t) => void putOff(t, 1)),
    n: onHere((t) => void putOff(t, 7)),
  });
  return (
    <ul>
      {list.map((t) => {
        const Icon = icons[t.kind];
        return (
          <li
            key={t.id}
            data-task={t.id}
            onFocus={() => setAt(t.id)}
            className={`flex flex-col gap-x-4 border-b border-rule px-4 py-1.5 focus-within:bg-main-soft sm:px-6 ${named ? "sm:flex-row sm:items-baseline" : ""}`}
          >
            <span
              className={`flex shrink-0 items-center gap-2 text-sm sm:w-44 ${new Date(t.dueAt) <= clockNow() ? "font-semibold text-advice" : "text-ink-soft"}`}
            >
              {dueOf(t.dueAt)}
            </span>
            <span className="flex min-w-0 flex-1 gap-2">
              {t.kind && <Icon size={14} aria-hidden className="mt-1 shrink-0 text-ink-soft" />}
              {named && (t.personId || t.dealId) ? (
                <Link
                  to={`${t.personId ? `/people/${t.personId}` : `/deals/${t.dealId}`}${t.letterId ? `?letter=${t.letterId}` : ""}`}
                  className="min-w-0 hover:underline"
                >
                  {t.text}
                </Link>
              ) : (
                <span className="min-w-0">{t.text}</span>
              )}
            </span>
            <span className="-ml-1 flex shrink-0 gap-2 sm:ml-0">
              {named && t.personId && (
                <Button
                  look="quiet"
                  className="px-1! text-sm"
                  onClick={() => write({ personId: t.personId ?? 0, ...(t.dealId && { dealId: t.dealId }) })}
                >
                  <PenLine size={14} aria-hidden /> Write<span className="sr-only">: {t.text}</span>
                </Button>
              )}
              {[1, 7].map((days) => (
                <Button
                  key={days}
                  look="quiet"
                  className="px-1! text-sm"
                  onClick={() => putOff(t, days)}
                  title={days === 1 ? "Postpone until tomorrow  ( t )" : "Postpone for a week  ( n )"}
                >
                  {days === 1 ? "Tomorrow" : "In a week"}
                  <span className="sr-only">: {t.text}</span>
                </Button>
              ))}
              <Button look="quiet" className="px-1! text-sm" onClick={() => settle(t, true)} title="Done  ( d )">
                <Check size={14} aria-hidden /> Done<span className="sr-only">: {t.text}</span>
              </Button>
            </span>
          </li>
        );
      })}
    </ul>
  );
}

/** What comes next with a person, above what happened. */
export function ComesNext({ personId }: { personId: number }) {
  const tasks = $api.useQuery(
    "get",
    "/api/tasks",
    { params: { query: { person: personId } } },
    { refetchInterval: 5000 },
  );
  const [adding, setAdding] = useState(false);
  return (
    <section aria-label="Next">
      <h2 className="flex items-baseline justify-between border-b border-rule px-4 pt-4 pb-1 text-sm font-semibold text-ink-soft sm:px-6">
        Next
        <button type="button" aria-expanded={adding} className="text-main" onClick={() => setAdding(!adding)}>
          {adding ? "Close" : "New task"}
        </button>
      </h2>
      {adding && <NewTask personId={personId} focus />}
      <PlansOf personId={personId} />
      <Tasks list={tasks.data?.tasks ?? []} named={false} />
    </section>
  );
}
