import { toast } from "sonner";
import { api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { plural } from "../../components/plural";
import { type Folder, useChange } from "./useLibrary";

type Props = { folder: Folder; empty: boolean; onDone: () => void; onClose: () => void };

/** Deletes a folder, and asks what happens to what is in it. */
export function DeleteFolder({ folder, empty, onDone, onClose }: Props) {
  const change = useChange();
  const remove = async (contents: "empty" | "out" | "delete") => {
    const { data, error } = await api
      .DELETE("/api/folders/{id}", { params: { path: { id: folder.id }, query: { contents } } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    onDone();
    const gone = data ?? [];
    const params = { params: { path: { id: folder.id } } };
    const putBack = () => void change(api.POST("/api/folders/{id}/put-back", params), `“${folder.name}” was restored.`);
    await change(
      Promise.resolve({}),
      gone.length > 0 ? `The folder and ${plural(gone.length, "template")} were deleted.` : "Folder deleted.",
      putBack,
    );
    onClose();
  };
  return (
    <Modal title={`Delete the folder “${folder.name}”`} onClose={onClose}>
      {empty ? (
        <>
          <p className="mb-4">This folder is empty.</p>
          <Button look="main" onClick={() => remove("empty")}>
            Delete the folder
          </Button>
        </>
      ) : (
        <>
          <p>What should happen to its contents? Letters keep what they have either way.</p>
          <div className="mt-4 flex flex-wrap gap-3">
            <Button look="main" onClick={() => remove("out")}>
              Move the contents out, then delete the folder
            </Button>
            <Button onClick={() => remove("delete")}>Delete the contents too</Button>
          </div>
        </>
      )}
    </Modal>
  );
}
