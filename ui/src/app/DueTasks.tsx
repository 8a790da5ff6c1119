import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api } from "../api/client";
import { clockNow } from "./clock";

/** Says on whatever screen is open that a task has become due. */
export function DueTasks() {
  const go = useNavigate();
  const tasks = $api.useQuery("get", "/api/tasks", {}, { refetchInterval: 20_000, staleTime: 10_000 }).data;
  const from = useRef(clockNow().getTime());
  const said = useRef(new Set<string>());
  useEffect(() => {
    const look = () => {
      const now = clockNow().getTime();
      for (const t of tasks ?? []) {
        const due = Date.parse(t.dueAt);
        const key = `${t.id} ${t.dueAt}`;
        // Those that were due before this window was opened stand on Today.
        if (due > now || due < from.current || said.current.has(key)) continue;
        said.current.add(key);
        toast(`Due now: ${t.text}`, {
          duration: 20_000,
          action: { label: "Open", onClick: () => go(t.personId ? `/people/${t.personId}` : "/today") },
        });
      }
    };
    look();
    const timer = window.setInterval(look, 5000);
    return () => window.clearInterval(timer);
  }, [tasks, go]);
  return null;
}
