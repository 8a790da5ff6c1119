import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { plural } from "../../components/plural";
import { inDays } from "../../components/time";
import type { Acting } from "./useRound";
import type { Round } from "./words";

/** Says why people may be written to, since when, and where that is known from; it is kept on their records. */
export function BasisDialog(props: { round: Round; count: number; act: Acting; onClose: () => void }) {
  const { round, count, act, onClose } = props;
  const [ground, setGround] = useState(round.grounds[0] ?? "");
  const [since, setSince] = useState(inDays(0));
  const [source, setSource] = useState("");
  const save = async () => {
    const ok = await act(
      api.POST("/api/rounds/{id}/basis", {
        params: { path: { id: round.id } },
        body: { reason: "nobasis", ground, since, source },
      }),
      (out: Schemas["DoneOut"]) => `Kept on ${plural(out.people, "record")}.`,
    );
    if (ok) onClose();
  };
  return (
    <Modal
      title={`Why may you write to ${count === 1 ? "this person" : `these ${count} people`}?`}
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" disabled={!source.trim() || !ground} onClick={save}>
          Save on {plural(count, "record")}
        </Button>
      }
    >
      <p className="mb-4 text-sm text-ink-soft">
        The basis stands on each record from now on, with your reason. Only say what is true of all of them.
      </p>
      <label className="mb-4 block">
        <span className="block text-sm text-ink-soft">Basis</span>
        <select
          value={ground}
          onChange={(e) => setGround(e.target.value)}
          className="min-h-9 w-full border-b border-rule-strong bg-sheet"
        >
          {round.grounds.map((g) => (
            <option key={g}>{g}</option>
          ))}
        </select>
      </label>
      <Input label="Since" type="date" value={since} onChange={(e) => setSince(e.target.value)} className="mb-4" />
      <Input
        label="Where do you know it from?"
        hint="Such as “left their card at the fair in Leeds”"
        value={source}
        onChange={(e) => setSource(e.target.value)}
      />
    </Modal>
  );
}
