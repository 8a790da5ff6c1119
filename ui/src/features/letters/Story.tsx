import { $api, type Schemas } from "../../api/client";
import { momentOf } from "../../components/time";

const words: Record<Schemas["LetterStep"]["state"], string> = {
  draft: "Back to draft",
  waiting: "Waiting",
  sending: "Handed to the mail server",
  sent: "Accepted by the mail server",
  refused: "Refused",
  unsure: "Not known whether it arrived",
  cancelled: "Cancelled",
};

/** The way of a letter, step by step. */
export function Story({ id, open = false }: { id: number; open?: boolean }) {
  const steps = $api.useQuery("get", "/api/letters/{id}/steps", { params: { path: { id } } }, { staleTime: 0 });
  if (!steps.data?.length) return null;
  return (
    <details open={open} className="mt-3 text-sm">
      <summary className="cursor-pointer text-main">Delivery details</summary>
      <ol aria-label="Steps" className="mt-1 border-t border-rule">
        {steps.data.map((s) => (
          <li key={`${s.at} ${s.state}`} className="flex flex-wrap gap-x-3 border-b border-rule py-0.5">
            <span className="w-40 shrink-0 text-ink-soft">{momentOf(s.at)}</span>
            <span className="min-w-0 flex-1 break-words">
              {words[s.state]}
              {s.reason && <span className="text-ink-soft">: {s.reason}</span>}
              {s.state === "waiting" && s.dueAt && <span className="text-ink-soft">; goes {momentOf(s.dueAt)}</span>}
            </span>
          </li>
        ))}
      </ol>
    </details>
  );
}
