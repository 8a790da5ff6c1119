import type { Schemas } from "../../api/client";
import { Button } from "../../components/Button";

/** A name in capitals or small letters: offered set right, never changed by itself. */
export function NameNote({ doubt, onTake }: { doubt: Schemas["Doubt"]; onTake: (alsoRecord: boolean) => void }) {
  return (
    <div className="text-sm">
      <p>
        {doubt.label} is written <b>{doubt.value}</b>. Better: <b>{doubt.better}</b>?
      </p>
      <p className="mt-1 flex flex-wrap gap-2">
        <Button onClick={() => onTake(false)}>In this letter</Button>
        <Button onClick={() => onTake(true)}>Also in the record</Button>
      </p>
    </div>
  );
}
