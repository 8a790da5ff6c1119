import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { depthOf } from "./folders";
import type { Folder } from "./useLibrary";

type Props = {
  title: string;
  folders: Folder[];
  /** Where it stands now; undefined: in no folder. */
  now: number | undefined;
  outside: string;
  onMove: (folder: number | undefined) => void;
  onClose: () => void;
};

/** Asks for the folder that something goes into. */
export function MoveDialog({ title, folders, now, outside, onMove, onClose }: Props) {
  const line = (id: number | undefined, name: string, deep: number) => (
    <li key={id ?? 0} style={{ paddingLeft: `${deep * 1.25}rem` }}>
      <Button
        look="quiet"
        disabled={id === now}
        onClick={() => {
          onMove(id);
          onClose();
        }}
      >
        {name}
        {id === now ? " (current)" : ""}
      </Button>
    </li>
  );
  return (
    <Modal title={title} onClose={onClose}>
      <ul>
        {line(undefined, outside, 0)}
        {folders.filter((f) => f.mayEdit).map((f) => line(f.id, f.name, depthOf(folders, f)))}
      </ul>
      {!folders.some((f) => f.mayEdit) && (
        <p className="mt-2 text-sm text-ink-soft">
          There is no folder that you may put something into; make one of your own.
        </p>
      )}
    </Modal>
  );
}
