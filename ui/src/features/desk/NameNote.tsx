import type { Schemas } from "../../api/client";
import { Button } from "../../components/Button";

/** A name in capitals or small letters: offered set right, never changed by itself. */
export function NameNote({ doubt, onTake }: { doubt: Schemas["Suggestion"]; onTake: (alsoRecord: boolean) => void }) {
  return (
    <div className="text-sm">
      <p>
        {doubt.label} is spelled <b>{doubt.value}</b>. Better: <b>{doubt.better}</b>?
      </p>
      <p className="mt-1 flex flex-wrap gap-2">
        <Button onClick={() => onTake(false)}>Change in this letter</Button>
        <Button onClick={() => onTake(true)}>Change on the record too</Button>
      </p>
    </div>
  );
}

/** What the writer wrote in place of a value: it stays in this letter, and can go to the record with one key. */
export function EditedNote({
  doubt,
  onRecord,
  onHere,
}: {
  doubt: Schemas["Suggestion"];
  onRecord: () => void;
  onHere: () => void;
}) {
  return (
    <div className="text-sm">
      <p>
        {doubt.label}: you wrote <b>{doubt.better}</b>, the record says <b>{doubt.value}</b>.
      </p>
      <p className="mt-1 flex flex-wrap gap-2">
        <Button onClick={onRecord}>Save “{doubt.better}” on the record</Button>
        <Button look="quiet" onClick={onHere}>
          Only in this letter<span className="sr-only">: {doubt.better}</span>
        </Button>
      </p>
    </div>
  );
}
