import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { $api, api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";
import type { RecordOf } from "./Taken";

/** Gives a record to a colleague. */
export function OwnerDialog(props: { record: RecordOf; owner: number | undefined; onClose: () => void }) {
  const { record, onClose } = props;
  const queries = useQueryClient();
  const users = $api.useQuery("get", "/api/colleagues").data?.users ?? [];
  const [owner, setOwner] = useState(props.owner ?? 0);
  const { write, busy, problem } = useWrite(
    () =>
      api.PUT("/api/records/{kind}/{id}/owner", {
        params: { path: { kind: record.kind, id: record.id } },
        body: { ownerId: owner },
      }),
    async () => {
      await queries.invalidateQueries();
      onClose();
      toast.success(`${users.find((u) => u.id === owner)?.name} owns ${record.name} now.`);
    },
  );
  return (
    <Modal
      title={`Who owns ${record.name}`}
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <Button look="main" className="ml-auto" disabled={busy || owner === 0} onClick={() => write()}>
            Change the owner
          </Button>
        </>
      }
    >
      <fieldset>
        <legend className="sr-only">Owner</legend>
        {users.map((u) => (
          <label key={u.id} className="flex items-baseline gap-2 py-1">
            <input
              type="radio"
              name="owner"
              className="accent-main"
              checked={owner === u.id}
              onChange={() => setOwner(u.id)}
            />
            <b className="font-serif">{u.name}</b> <span className="text-sm text-ink-soft">{u.email}</span>
          </label>
        ))}
      </fieldset>
    </Modal>
  );
}
