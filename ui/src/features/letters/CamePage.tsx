import { useParams } from "react-router";
import { IncomingLetter } from "./IncomingLetter";

/** A letter of somebody who is in no record. */
export function CamePage() {
  const id = Number(useParams().id);
  return (
    <div className="px-4 py-5 sm:px-8">
      <p className="mx-auto mb-3 max-w-2xl text-ink-soft">
        This person isn’t in your records. Replying adds them as a lead.
      </p>
      <IncomingLetter id={id} />
    </div>
  );
}
