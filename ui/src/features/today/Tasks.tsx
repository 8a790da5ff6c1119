import { useQueryClient } from "@tanstack/react-query";
import { Check } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { clockNow } from "../../app/clock";
import { Button } from "../../components/Button";
import { clockOf, dueOf, inDays } from "../../components/time";
import { PlansOf } from "../plans/ForPerson";
import { NewTask } from "./NewTask";

type Task = Schemas["Task"];

/** Tasks as ruled lines, each done with one press. */
export function Tasks({ list, named = true }: { list: Task[]; named?: boolean }) {
  const queries = useQueryClient();
  const settle = async (t: Task, done: boolean) => {
    const { error } = await api
      .POST("/api/tasks/{id}/done", { params: { path: { id: t.id } }, body: { done } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/tasks"] });
    if (done) toast("Done.", { action: { label: "Undo", onClick: () => settle(t, false) } });
  };
  const putOff = async (t: Task, days: number) => {
    const to = new Date(`${inDays(days)}T${clockOf(t.dueAt)}`).toISOString();
    const { error } = await api
      .POST("/api/tasks/{id}/snooze", { params: { path: { id: t.id } }, body: { to } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/tasks"] });
  };
  return (
    <ul>
      {list.map((t) => (
        <li
          key={t.id}
          className={`flex flex-col gap-x-4 border-b border-rule px-4 py-1.5 sm:px-6 ${named ? "sm:flex-row sm:items-baseline" : ""}`}
        >
          <span
            className={`shrink-0 text-sm sm:w-44 ${new Date(t.dueAt) <= clockNow() ? "font-semibold text-advice" : "text-ink-soft"}`}
          >
            {dueOf(t.dueAt)}
          </span>
          <span className="min-w-0 flex-1">
            {named && (t.personId || t.dealId) ? (
              <Link
                to={`${t.personId ? `/people/${t.personId}` : `/deals/${t.dealId}`}${t.letterId ? `?letter=${t.letterId}` : ""}`}
                className="hover:underline"
              >
                {t.text}
              </Link>
            ) : (
              t.text
            )}
          </span>
          <span className="-ml-1 flex shrink-0 gap-2 sm:ml-0">
            {[1, 7].map((days) => (
              <Button
                key={days}
                look="quiet"
                className="px-1! text-sm"
                onClick={() => putOff(t, days)}
                title={days === 1 ? "Postpone until tomorrow" : "Postpone for a week"}
              >
                {days === 1 ? "Tomorrow" : "In a week"}
                <span className="sr-only">: {t.text}</span>
              </Button>
            ))}
            <Button look="quiet" className="px-1! text-sm" onClick={() => settle(t, true)}>
              <Check size={14} aria-hidden /> Done<span className="sr-only">: {t.text}</span>
            </Button>
          </span>
        </li>
      ))}
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
      <Tasks list={tasks.data ?? []} named={false} />
    </section>
  );
}
