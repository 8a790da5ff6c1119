import { useState } from "react";
import { $api } from "../../api/client";
import { clockNow } from "../../app/clock";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { PlansToday } from "../plans/PlansToday";
import { OpenRounds } from "../rounds/OpenRounds";
import { Answers } from "./Answers";
import { CalendarNote } from "./CalendarNote";
import { CameBack, RecentNews } from "./CameBack";
import { NewTask } from "./NewTask";
import { Tasks } from "./Tasks";

/** How many tasks are shown at first, and at most. */
const tasksAtOnce = 100;
const mostTasks = 500;

/** What is to be done: what is due, and what comes. */
export function TodayPage() {
  const [limit, setLimit] = useState(tasksAtOnce);
  const tasks = $api.useQuery(
    "get",
    "/api/tasks",
    { params: { query: { limit } } },
    { staleTime: 0, placeholderData: (before) => before },
  );
  if (tasks.isPending) return <Loading />;
  const end = clockNow();
  end.setHours(23, 59, 59, 999);
  const list = tasks.data?.tasks ?? [];
  const more = (tasks.data?.total ?? 0) - list.length;
  const due = list.filter((t) => new Date(t.dueAt) <= end);
  const later = list.filter((t) => new Date(t.dueAt) > end);
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-10 sm:px-6">
      <div className="mb-3 flex flex-wrap items-center gap-x-4">
        <h1 className="font-serif text-2xl font-semibold">Today</h1>
        <CalendarNote />
      </div>
      <div className="mb-5 border border-rule bg-sheet">
        <NewTask />
      </div>
      <ProblemText error={tasks.error} />
      {tasks.data && list.length === 0 && (
        <p className="py-8 text-ink-soft">
          No tasks due. Add one above, or on a person’s page. When you send a letter, “When” can remind you if there’s
          no reply; the reminder appears here.
        </p>
      )}
      <Answers />
      <PlansToday />
      <OpenRounds />
      <CameBack />
      {due.length > 0 && (
        <section aria-label="Due" className="mb-6 border-x border-t border-rule bg-sheet">
          <h2 className="border-b border-rule px-4 py-1.5 font-semibold sm:px-6">Due</h2>
          <Tasks list={due} />
        </section>
      )}
      {later.length > 0 && (
        <section aria-label="Later" className="border-x border-t border-rule bg-sheet">
          <h2 className="border-b border-rule px-4 py-1.5 font-semibold sm:px-6">Later</h2>
          <Tasks list={later} />
        </section>
      )}
      {more > 0 && (
        <p className="mb-6 flex items-center gap-3 text-ink-soft">
          {plural(more, "later task")} {more === 1 ? "isn’t" : "aren’t"} shown.
          {limit < mostTasks && (
            <Button onClick={() => setLimit(Math.min(mostTasks, limit + tasksAtOnce))}>Show more</Button>
          )}
        </p>
      )}
      <RecentNews />
    </div>
  );
}
