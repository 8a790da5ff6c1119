import { useQueryClient } from "@tanstack/react-query";
import { FastForward } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { momentOf } from "../../components/time";

const steps = [
  ["an hour", 60],
  ["a day", 24 * 60],
  ["a week", 7 * 24 * 60],
] as const;

/** The clock of the stand-in world, which can be moved on. */
export function WorldClock() {
  const queries = useQueryClient();
  const world = $api.useQuery("get", "/api/post-office-world", {}, { refetchInterval: 30_000 });
  const [busy, setBusy] = useState(false);
  if (!world.data?.open) return null;
  const skip = async (minutes: number) => {
    setBusy(true);
    const { error } = await api.POST("/api/post-office-world/clock", { body: { minutes } }).catch(noAnswer);
    setBusy(false);
    if (error) return void toast.error(wordsOf(error));
    await queries.invalidateQueries();
  };
  return (
    <fieldset aria-label="Clock" className="mt-3 border-y border-rule py-2 text-sm">
      <p>
        It is <span className="font-semibold">{momentOf(world.data.now)}</span> here.
      </p>
      <p className="mt-1 flex flex-wrap items-center gap-x-3">
        <span className="inline-flex items-center gap-1 text-ink-soft">
          <FastForward size={14} aria-hidden /> Move on by
        </span>
        {steps.map(([name, minutes]) => (
          <Button key={name} look="quiet" className="px-0! text-sm" disabled={busy} onClick={() => skip(minutes)}>
            {name}
          </Button>
        ))}
      </p>
      {busy && <p role="status">Moving the clock …</p>}
    </fieldset>
  );
}

/** How the recipient behaves. */
export function CharacterChoice({ mailbox }: { mailbox: string }) {
  const queries = useQueryClient();
  const world = $api.useQuery("get", "/api/post-office-world");
  const path = { params: { path: { mailbox } } };
  const own = $api.useQuery("get", "/api/post-office/{mailbox}/character", path, {
    enabled: world.data?.open === true,
  });
  if (!world.data?.open || !own.data) return null;
  const set = async (key: string) => {
    const { error } = await api.PUT("/api/post-office/{mailbox}/character", { ...path, body: { key } }).catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/post-office/{mailbox}/character"] });
  };
  return (
    <label className="flex flex-wrap items-baseline gap-2 text-sm">
      <span className="text-ink-soft">From now on</span>
      <select
        aria-label="How this recipient behaves"
        value={own.data.key}
        onChange={(e) => set(e.target.value)}
        className="border-b border-rule-strong bg-ground py-0.5 font-semibold"
      >
        {world.data.characters.map((c) => (
          <option key={c.key} value={c.key}>
            {c.name}
          </option>
        ))}
      </select>
      <span className="text-ink-soft">{own.data.does}</span>
    </label>
  );
}

/** What the recipient does about a letter. */
export function Errands({ list }: { list: Schemas["ScheduledJob"][] }) {
  if (list.length === 0) return null;
  return (
    <ul aria-label="What the recipient does" className="mb-3 text-sm">
      {list.map((e) => (
        <li key={e.id} className={e.doneAt ? "text-ink-soft" : ""}>
          {e.doneAt
            ? `${momentOf(e.doneAt)}: ${e.kind}${e.outcome === "done" ? "" : `, which failed: ${e.outcome}`}`
            : `Going to ${e.kind} at ${momentOf(e.dueAt)}`}
        </li>
      ))}
    </ul>
  );
}
