import type { Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { plural } from "../../components/plural";
import { dueOf } from "../../components/time";

type Props = { effects: Schemas["Effects"]; busy: boolean; onSave: () => void; onClose: () => void };

const people = (n: number) => plural(n, "person", "people");

/** What a change of a plan does to those who are on it, before it is saved. */
export function EffectsDialog({ effects: e, busy, onSave, onClose }: Props) {
  const nothing = e.steps.length === 0 && e.movesN === 0 && e.ends === 0 && e.drafts === 0;
  return (
    <Modal
      title={`${people(e.people)} ${e.people === 1 ? "is" : "are"} on this plan`}
      onClose={onClose}
      foot={
        <>
          <Button look="main" disabled={busy} onClick={onSave}>
            Save the change
          </Button>
          <Button look="quiet" onClick={onClose}>
            Keep editing
          </Button>
        </>
      }
    >
      {nothing ? (
        <p>Nobody’s steps or dates change.</p>
      ) : (
        <div className="space-y-4">
          {e.steps.length > 0 && (
            <ul className="space-y-1">
              {e.steps.map((s) => (
                <li key={s.key}>
                  <span className="font-serif font-semibold">{s.name}</span>:{" "}
                  {[
                    s.gets > 0 && `${people(s.gets)} will get it`,
                    s.misses > 0 && `${people(s.misses)} ${s.misses === 1 ? "is" : "are"} past it and won’t get it`,
                    s.loses > 0 && `${people(s.loses)} won’t get it any more`,
                  ]
                    .filter(Boolean)
                    .join("; ")}
                </li>
              ))}
            </ul>
          )}
          {e.ends > 0 && <p>For {people(e.ends)} the plan is finished then: nothing is left to come.</p>}
          {e.drafts > 0 && (
            <p>
              {plural(e.drafts, "letter waits", "letters wait")} to be proofread for a step that is no longer next. The
              drafts stay.
            </p>
          )}
          {e.movesN > 0 && (
            <section aria-label="Dates that move">
              <h3 className="font-semibold">The next date moves for {people(e.movesN)}</h3>
              <ul className="mt-1 max-h-56 overflow-auto">
                {e.moves.map((m) => (
                  <li key={m.personId} className="flex flex-wrap gap-x-3 border-b border-rule py-0.5">
                    <span className="min-w-36 flex-1">{m.name}</span>
                    <span className="text-sm text-ink-soft">
                      {m.from ? dueOf(m.from) : "no date"} → {m.to ? dueOf(m.to) : "finished"}
                    </span>
                  </li>
                ))}
              </ul>
              {e.movesN > e.moves.length && (
                <p className="text-sm text-ink-soft">and {e.movesN - e.moves.length} more</p>
              )}
            </section>
          )}
        </div>
      )}
    </Modal>
  );
}
