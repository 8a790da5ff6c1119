import { useEffect, useState } from "react";

/** Says that something is on its way, after the tenth of a second in which nobody wonders. */
export function Loading({ what = "One moment" }: { what?: string }) {
  const [shown, setShown] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setShown(true), 100);
    return () => clearTimeout(timer);
  }, []);
  return (
    <p role="status" className="p-6 text-ink-soft">
      {shown ? `${what} …` : ""}
    </p>
  );
}
