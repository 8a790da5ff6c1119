import { $api, api } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { useChange } from "./useLibrary";

type Props = { id: number; name: string; onDone?: () => void; onClose: () => void };

/** Says what depends on a template, and deletes it with a way back. */
export function DeleteTemplate({ id, name, onDone, onClose }: Props) {
  const change = useChange();
  const params = { params: { path: { id } } };
  const d = $api.useQuery("get", "/api/templates/{id}/dependants", params, { staleTime: 0 }).data;
  const remove = async () => {
    const back = () => void change(api.POST("/api/templates/{id}/put-back", params), `“${name}” is back.`);
    if (!(await change(api.DELETE("/api/templates/{id}", params), `“${name}” was deleted.`, back))) return;
    onDone?.();
    onClose();
  };
  const letters = (n: number) => (n === 1 ? "1 letter" : `${n} letters`);
  return (
    <Modal title={`Delete “${name}”`} onClose={onClose}>
      {d && (
        <>
          <ul className="mb-4 list-disc pl-5">
            {d.sent > 0 && <li>{letters(d.sent)} went out of it; they stay as they were sent.</li>}
            {d.drafts > 0 && <li>{letters(d.drafts)} are being written from it; they stay as they are.</li>}
            {d.copies > 0 && (
              <li>
                {d.copies === 1 ? "1 copy follows it; it stays" : `${d.copies} copies follow it; they stay`} and follow
                nothing.
              </li>
            )}
            {d.sent + d.drafts === 0 && <li>No letter was written from it.</li>}
          </ul>
          <Button look="main" onClick={remove}>
            Delete the template
          </Button>
        </>
      )}
    </Modal>
  );
}
