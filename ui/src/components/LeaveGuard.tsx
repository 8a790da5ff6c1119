import { useEffect } from "react";
import { useBlocker } from "react-router";
import { Button } from "./Button";
import { Modal } from "./Modal";

/** Asks before another screen is shown while something here is not saved. Past is another path that may follow. */
export function LeaveGuard({ changed, what, past }: { changed: boolean; what: string; past?: () => boolean }) {
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) =>
      changed && currentLocation.pathname !== nextLocation.pathname && !(past?.() ?? false),
  );
  // The browser asks in its own words before the page is loaded anew or closed.
  useEffect(() => {
    if (!changed) return;
    const leave = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [changed]);
  if (blocker.state !== "blocked") return null;
  return (
    <Modal title="Leave without saving?" onClose={() => blocker.reset()}>
      <p className="mb-5">Your changes to {what} aren’t saved.</p>
      <div className="flex flex-wrap gap-3">
        <Button look="main" data-autofocus onClick={() => blocker.reset()}>
          Stay here
        </Button>
        <Button onClick={() => blocker.proceed()}>Leave without saving</Button>
      </div>
    </Modal>
  );
}
