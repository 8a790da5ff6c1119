import { useParams } from "react-router";
import { IncomingLetter } from "./IncomingLetter";

/** A letter of somebody who is in no record. */
export function CamePage() {
  const id = Number(useParams().id);
  return (
    <div className="px-4 py-5 sm:px-8">
      <IncomingLetter id={id} />
    </div>
  );
}
