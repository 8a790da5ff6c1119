import { useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Stretches } from "./Stretches";
import type { Template, TemplateDraft } from "./useTemplate";

type Origin = Schemas["Origin"];
type Follow = { subject?: boolean; take?: number[]; whole?: boolean; end?: boolean };

/** Over a copy: what its original changed since, and what becomes of that. */
export function OriginNote({ draft }: { draft: TemplateDraft }) {
  const { stored, changed, take } = draft;
  const id = stored.id;
  const origin = $api.useQuery("get", "/api/templates/{id}/origin", { params: { path: { id } } }, { staleTime: 0 });
  const [open, setOpen] = useState(false);
  const o = origin.data;
  const follow = async (what: Follow) => {
    const { data, error } = await api
      .POST("/api/templates/{id}/origin", { params: { path: { id } }, body: { now: o?.now ?? 0, ...what } })
      .catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    setOpen(false);
    take(data as Template);
    void origin.refetch();
    toast.success(
      what.end
        ? "It no longer follows the original."
        : what.take || what.whole || what.subject
          ? "Changes applied."
          : "Your version was kept.",
    );
  };
  if (!o) return null;
  return (
    <div
      className={`flex flex-wrap items-center gap-x-5 gap-y-1 border-b px-6 py-2 text-sm ${o.moved ? "border-advice bg-advice-soft" : "border-rule"}`}
    >
      <p>
        {o.gone
          ? `The template “${o.name}” that this was copied from is no longer in the library.`
          : o.moved
            ? `“${o.name}”, which this is a copy of, has changed since you last looked.`
            : `A copy of “${o.name}”. You’ll be told here when it changes.`}
      </p>
      {o.moved && stored.mayEdit && (
        <button
          type="button"
          className="text-main underline disabled:no-underline disabled:opacity-60"
          disabled={changed}
          title={changed ? "Save your changes first" : undefined}
          onClick={() => setOpen(true)}
        >
          See what changed
        </button>
      )}
      {stored.mayEdit && (
        <button type="button" className="text-main underline" onClick={() => follow({ end: true })}>
          Stop following
        </button>
      )}
      {open && <Changes origin={o} onFollow={follow} onClose={() => setOpen(false)} />}
    </div>
  );
}

function Changes({
  origin,
  onFollow,
  onClose,
}: {
  origin: Origin;
  onFollow: (f: Follow) => void;
  onClose: () => void;
}) {
  const [take, setTake] = useState(() => origin.changes.map((c, i) => (c.conflict ? -1 : i)).filter((i) => i >= 0));
  const [subject, setSubject] = useState(origin.subject.length > 0);
  const none = take.length === 0 && !subject;
  return (
    <Modal
      title={`What “${origin.name}” changed`}
      onClose={onClose}
      wide
      foot={
        <>
          <Button look="main" disabled={none} onClick={() => onFollow({ subject, take })}>
            Apply the selected changes
          </Button>
          <Button onClick={() => onFollow({ whole: true })}>Use all of its wording</Button>
          <Button look="quiet" onClick={() => onFollow({})}>
            Keep mine
          </Button>
        </>
      }
    >
      {origin.whole && <p>It is a different kind of letter now, so you can only use all of it.</p>}
      {!origin.whole && origin.changes.length === 0 && origin.subject.length === 0 && (
        <p>Your copy already has these changes, or only the formatting differs.</p>
      )}
      {origin.subject.length > 0 && (
        <Change on={subject} onFlip={() => setSubject(!subject)} name="Subject">
          <Stretches list={origin.subject} />
        </Change>
      )}
      {origin.changes.map((c, i) => (
        <Change
          // biome-ignore lint/suspicious/noArrayIndexKey: changes have no other identity
          key={i}
          on={take.includes(i)}
          onFlip={() => setTake(take.includes(i) ? take.filter((x) => x !== i) : [...take, i])}
          name={`Change ${i + 1}`}
        >
          <Stretches list={c.words} />
          {c.conflict && (
            <p className="mt-1 text-sm text-advice">
              You changed this place too; yours says: <span className="font-serif text-ink">{c.mine || "nothing"}</span>
            </p>
          )}
        </Change>
      ))}
    </Modal>
  );
}

type ChangeProps = { on: boolean; onFlip: () => void; name: string; children: React.ReactNode };

function Change({ on, onFlip, name, children }: ChangeProps) {
  return (
    <div className="flex items-start gap-3 border-b border-rule py-3">
      <input
        type="checkbox"
        checked={on}
        onChange={onFlip}
        aria-label={`Apply: ${name}`}
        className="mt-1.5 accent-main"
      />
      <div className="min-w-0 flex-1">
        <h3 className="text-sm text-ink-soft">{name}</h3>
        <div className="letter-text text-base!">{children}</div>
      </div>
    </div>
  );
}
