import { $api, api } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { listOf, plural } from "../../components/plural";
import { useChange } from "./useLibrary";

type Props = { id: number; name: string; onDone?: () => void; onClose: () => void };

/** Says what depends on a template, and deletes it with a way back. */
export function DeleteTemplate({ id, name, onDone, onClose }: Props) {
  const change = useChange();
  const params = { params: { path: { id } } };
  const d = $api.useQuery("get", "/api/templates/{id}/dependants", params, { staleTime: 0 }).data;
  const remove = async () => {
    const back = () => void change(api.POST("/api/templates/{id}/put-back", params), `“${name}” was restored.`);
    if (!(await change(api.DELETE("/api/templates/{id}", params), `“${name}” was deleted.`, back))) return;
    onDone?.();
    onClose();
  };
  return (
    <Modal title={`Delete “${name}”`} onClose={onClose}>
      {d && (
        <>
          <ul className="mb-4 list-disc pl-5">
            {d.sent > 0 && <li>{plural(d.sent, "letter")} sent from it. They stay as they were sent.</li>}
            {d.drafts > 0 && <li>{plural(d.drafts, "draft")} started from it. They stay as they are.</li>}
            {d.copies > 0 && (
              <li>{plural(d.copies, "copy", "copies")} made from it. They stay, but will no longer follow it.</li>
            )}
            {d.wordings.length > 0 && (
              <li>
                {d.wordings.length === 1 ? "Its wording" : "Its wordings"} in{" "}
                {listOf(d.wordings.map((w) => w.name || "another language"))}, deleted with it.
              </li>
            )}
            {d.plans.length > 0 && (
              <li>
                {plural(d.plans.length, "plan")} with letters of it: {listOf(d.plans)}. Those letters will wait for
                their owner instead of going.
              </li>
            )}
            {d.sent + d.drafts === 0 && <li>No letters use it.</li>}
          </ul>
          <Button look="main" onClick={remove}>
            Delete the template
          </Button>
        </>
      )}
    </Modal>
  );
}
