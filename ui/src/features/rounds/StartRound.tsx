import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { $api, api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";

type Props = {
  /** The template, where that is. */
  template?: { id: number; name: string };
  onClose: () => void;
};

/** Begins a round: with a saved list, and a template where that is chosen already. */
export function StartRound({ template, onClose }: Props) {
  const go = useNavigate();
  const lists = ($api.useQuery("get", "/api/lists").data ?? []).filter((l) => !l.problem);
  const [list, setList] = useState(0);
  const chosen = list || (lists[0]?.id ?? 0);
  const { write, busy, problem } = useWrite(
    () => api.POST("/api/rounds", { body: { listId: chosen, ...(template && { templateId: template.id }) } }),
    (out) => go(`/rounds/${out.id}`),
  );
  return (
    <Modal
      title={template ? `Start a round with “${template.name}”` : "Start a round"}
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <Button look="main" className="ml-auto" disabled={busy || !chosen} onClick={() => write()}>
            Start the round
          </Button>
        </>
      }
    >
      <p className="mb-4 text-ink-soft">
        Everybody in the list gets a letter of their own. Nothing goes before you have looked.
      </p>
      {lists.length === 0 ? (
        <p>
          There is no saved list yet. Filter{" "}
          <Link to="/people" className="text-main underline">
            People
          </Link>{" "}
          and save the filter, or select people there and press Round.
        </p>
      ) : (
        <label className="block">
          <span className="block text-sm text-ink-soft">To everybody in the list</span>
          <select
            value={chosen}
            onChange={(e) => setList(Number(e.target.value))}
            className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          >
            {lists.map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}
                {l.mine ? "" : ` (by ${l.owner})`}
              </option>
            ))}
          </select>
        </label>
      )}
    </Modal>
  );
}

/** Begins a round with people that were picked. */
export function useRoundWith() {
  const go = useNavigate();
  return useWrite(
    (people: number[]) => api.POST("/api/rounds", { body: { people } }),
    (out) => go(`/rounds/${out.id}`),
  );
}
