import { useState } from "react";
import { $api } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";

type Props = { title: string; chosen: string[]; onKeep: (ids: number[]) => Promise<unknown>; onClose: () => void };

/** Change colleagues get a letter; those chosen are known by their addresses. */
export function Colleagues({ title, chosen, onKeep, onClose }: Props) {
  const all = $api.useQuery("get", "/api/colleagues").data?.users ?? [];
  const [ids, setIds] = useState<number[] | null>(null);
  const now = ids ?? all.filter((c) => chosen.includes(c.email)).map((c) => c.id);
  return (
    <Modal
      title={title}
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" disabled={now.length === 0} onClick={() => onKeep(now)}>
          {ids === null && chosen.length === 0 ? "Choose" : "Go on"}
        </Button>
      }
    >
      <p className="mb-3 text-sm text-ink-soft">
        A letter to colleagues is filed on the deal, not on the person; nothing in it is tracked, and it counts in no
        results.
      </p>
      <fieldset>
        <legend className="sr-only">Colleagues</legend>
        {all.map((c) => (
          <label key={c.id} className="flex items-baseline gap-2 py-1">
            <input
              type="checkbox"
              className="accent-main"
              checked={now.includes(c.id)}
              onChange={(e) => setIds(e.target.checked ? [...now, c.id] : now.filter((x) => x !== c.id))}
            />
            <b className="font-serif">{c.name}</b> <span className="text-sm text-ink-soft">{c.email}</span>
          </label>
        ))}
      </fieldset>
    </Modal>
  );
}
