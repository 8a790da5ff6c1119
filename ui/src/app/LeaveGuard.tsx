import { useBlocker } from "react-router";
import { Button } from "../components/Button";
import { Modal } from "../components/Modal";
import { unsavedWork } from "./unsaved";

/** Asks before another screen is shown while something on this one is not saved. Stands once, around all screens. */
export function LeaveGuard() {
  const blocker = useBlocker(
    ({ currentLocation, nextLocation, historyAction }) =>
      currentLocation.pathname !== nextLocation.pathname &&
      unsavedWork(historyAction === "POP" ? "back" : "on") !== undefined,
  );
  if (blocker.state !== "blocked") return null;
  return (
    <Modal title="Leave without saving?" onClose={() => blocker.reset()}>
      <p className="mb-5">Your changes to {unsavedWork("back")} aren’t saved.</p>
      <div className="flex flex-wrap gap-3">
        <Button look="main" data-autofocus onClick={() => blocker.reset()}>
          Stay here
        </Button>
        <Button onClick={() => blocker.proceed()}>Leave without saving</Button>
      </div>
    </Modal>
  );
}
