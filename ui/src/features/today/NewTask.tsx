import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { inDays, inWords } from "../../components/time";

type Props = { personId?: number; dealId?: number; focus?: boolean; text?: string; onDone?: () => void };

type Kind = "" | "call" | "visit" | "note";
type Body = { text: string; kind: Kind; dueAt: string; personId?: number; dealId?: number };

/** A line on which a task is written down; it is due on a day at nine, or at the time that is given. */
export function NewTask({ personId, dealId, focus = false, text = "", onDone }: Props) {
  const queries = useQueryClient();
  const [noDay, setNoDay] = useState(false);
  const [day, setDay] = useState(() => inDays(1));
  const { write, problem } = useWrite(
    (body: Body) => api.POST("/api/tasks", { body }),
    () => void queries.invalidateQueries({ queryKey: ["get", "/api/tasks"] }),
  );
  const add = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const element = event.currentTarget;
    const form = new FormData(element);
    const due = new Date(`${form.get("day")}T${form.get("time") || "09:00"}`);
    const wrong = Number.isNaN(due.getTime());
    setNoDay(wrong);
    if (wrong) return;
    const about = { ...(personId && { personId }), ...(dealId && { dealId }) };
    if (
      !(await write({
        text: String(form.get("text")),
        kind: String(form.get("kind")) as Kind,
        dueAt: due.toISOString(),
        ...about,
      }))
    )
      return;
    if (onDone) return onDone();
    element.reset();
    setDay(inDays(1));
    element.querySelector("input")?.focus();
  };
  const line = "border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main";
  return (
    <form onSubmit={add} className="flex flex-wrap items-end gap-x-4 gap-y-2 px-4 py-2 sm:px-6">
      <input
        name="text"
        aria-label="New task"
        defaultValue={text}
        placeholder="New task"
        // biome-ignore lint/a11y/noAutofocus: the line was opened to be written on
        autoFocus={focus}
        className={`min-w-40 flex-1 ${line}`}
      />
      <select name="kind" aria-label="Kind of task" className={`${line} bg-sheet`}>
        <option value="">Task</option>
        <option value="call">Call</option>
        <option value="visit">Visit</option>
        <option value="note">Note</option>
      </select>
      <input
        name="day"
        type="date"
        aria-label="Day"
        value={day}
        onChange={(e) => setDay(e.target.value)}
        className={line}
      />
      <span className="self-center text-sm text-ink-soft">{inWords(day).split(/[ ,]/)[0]}</span>
      <input name="time" type="time" aria-label="Time" className={line} />
      <Button type="submit">Add task</Button>
      {(noDay || problem) && (
        <p role="alert" className="w-full text-stop">
          {noDay ? "Choose a date." : problem}
        </p>
      )}
    </form>
  );
}
