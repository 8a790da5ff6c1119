import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, wordsOf } from "../../api/client";
import { useClock } from "../../app/clock";
import { useKeys } from "../../app/keys";

/** The longest hold, in seconds: what goes later than that was set to go later. */
const longest = 120;

/** The letters that can be taken back before they go, wherever one is. */
export function Held() {
  const go = useNavigate();
  const queries = useQueryClient();
  const now = useClock(500);
  const waiting = $api.useQuery("get", "/api/letters", { params: { query: { state: ["waiting"] } } });
  const held = (waiting.data ?? [])
    .map((l) => ({ ...l, left: Math.ceil((Date.parse(l.dueAt ?? "") - now) / 1000) }))
    .filter((l) => l.attempts === 0 && l.left > 0 && l.left <= longest)
    .sort((a, b) => a.left - b.left);
  const some = held.length > 0;
  useEffect(() => {
    if (!some) return;
    // It went: what the screens say of it is old.
    return () => void queries.invalidateQueries();
  }, [some, queries]);

  const first = held[0];
  const takeBack = async () => {
    if (!first) return;
    const { error } = await api.POST("/api/letters/{id}/take-back", { params: { path: { id: first.id } } });
    if (error) toast.error(wordsOf(error));
    else go(`/letters/${first.id}`);
    await queries.invalidateQueries();
  };
  useKeys(first ? { b: takeBack } : {});
  if (!first) return null;
  return (
    <section
      aria-label="Going"
      className="flex items-center gap-3 border-b border-rule-strong bg-main px-4 py-1.5 text-on-main sm:px-6"
    >
      <p role="status" className="min-w-0 truncate">
        To <b>{first.person}</b>
        {held.length > 1 && ` and ${held.length - 1} more`}
      </p>
      <p aria-hidden className="tabular-nums">
        goes in {first.left} s
      </p>
      <button type="button" onClick={takeBack} className="ml-auto font-semibold underline">
        Take back <kbd className="font-sans font-normal">(b)</kbd>
      </button>
    </section>
  );
}
