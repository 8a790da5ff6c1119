import { Button } from "../../components/Button";
import type { Letter } from "./useDraft";

/** What changed on the record since the letter was written: it is told, and goes in with one press. */
export function RecordNewsNote({ letter, onSettle }: { letter: Letter; onSettle: (take: boolean) => void }) {
  return (
    <div className="text-sm">
      <p>The record changed since you began this letter.</p>
      <ul className="my-1">
        {letter.recordNews.map((n) => (
          <li key={n.path}>
            {n.label}: {n.was ? <s>{n.was}</s> : <i>nothing</i>} → {n.now ? <b>{n.now}</b> : <i>nothing</i>}
          </li>
        ))}
      </ul>
      <p className="flex flex-wrap gap-2">
        <Button onClick={() => onSettle(true)}>Update the letter</Button>
        <Button look="quiet" onClick={() => onSettle(false)}>
          Leave it as it is
        </Button>
      </p>
    </div>
  );
}
