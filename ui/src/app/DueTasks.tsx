import { useEffect } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, noAnswer } from "../api/client";
import { plural } from "../components/plural";

/** How often it is asked at least whether something became due, in milliseconds. */
const atLeast = 20_000;

/** Says on whatever screen is open that tasks have become due: one notice for those of one look. */
export function DueTasks() {
  const go = useNavigate();
  useEffect(() => {
    let gone = false;
    let timer = 0;
    let since: string | undefined; // what was due before this window was opened stands on Today
    const look = async () => {
      const { data } = await api.GET("/api/tasks/due", { params: { query: { since } } }).catch(noAnswer);
      if (gone) return;
      let wait = atLeast;
      if (data) {
        since = data.now;
        if (data.nextAt) wait = Math.min(wait, Math.max(500, Date.parse(data.nextAt) - Date.parse(data.now) + 50));
        if (data.count === 1 && data.last) {
          const { text, personId } = data.last;
          toast(`Due now: ${text}`, {
            duration: 20_000,
            action: { label: "Open", onClick: () => go(personId ? `/people/${personId}` : "/today") },
          });
        } else if (data.count > 1) {
          toast(`${plural(data.count, "task")} became due`, {
            duration: 20_000,
            action: { label: "Open", onClick: () => go("/today") },
          });
        }
      }
      timer = window.setTimeout(look, wait);
    };
    void look();
    return () => {
      gone = true;
      window.clearTimeout(timer);
    };
  }, [go]);
  return null;
}
