import { momentOf } from "../../components/time";
import type { TemplateDraft } from "./useTemplate";

/** Somebody else stored the template meanwhile: both wordings are there, and one is chosen. */
export function Stale({ draft }: { draft: TemplateDraft }) {
  const { stale, store, take } = draft;
  if (!stale) return null;
  return (
    <div
      role="alert"
      className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-stop bg-stop-soft px-6 py-2"
    >
      <p>
        Somebody stored version {stale.version} of this template on {momentOf(stale.updatedAt)}, while you were writing.
        Nothing was overwritten.
      </p>
      <button type="button" className="text-main underline" onClick={() => store(stale.state, stale.version)}>
        Save mine anyway
      </button>
      <button type="button" className="text-main underline" onClick={() => take(stale)}>
        Use theirs
      </button>
    </div>
  );
}
