import { useState } from "react";
import { api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { inWords } from "../../components/time";

/** Change time for a letter that waits. */
export function TimeDialog({ id, onDone, onClose }: { id: number; onDone: () => void; onClose: () => void }) {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const [local, setLocal] = useState("");
  const { write, busy, problem } = useWrite(
    (body: { local?: string; zone?: string; morning?: boolean }) =>
      api.POST("/api/letters/{id}/time", { params: { path: { id } }, body }),
    () => {
      onDone();
      onClose();
    },
  );
  return (
    <Modal
      title="When it goes"
      onClose={onClose}
      foot={
        <>
          <Button disabled={busy} onClick={() => write({ morning: true })}>
            Next working morning
          </Button>
          <Button look="main" className="ml-auto" disabled={!local || busy} onClick={() => write({ local, zone })}>
            Send at this time
          </Button>
        </>
      }
    >
      <label className="flex flex-wrap items-center gap-3">
        <span className="font-medium">In my time zone</span>
        <input
          type="datetime-local"
          value={local}
          onChange={(e) => setLocal(e.target.value)}
          className="border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
        />
        <span className="ml-3 text-sm text-ink-soft">{inWords(local)}</span>
      </label>
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
    </Modal>
  );
}
