import { useEffect, useState } from "react";

/** How far the program's clock is ahead of this computer's, in milliseconds: the post office can move it on. */
let ahead = 0;
const listeners = new Set<() => void>();

/** The program tells its time with every answer. */
export function setClock(now: string) {
  const off = Date.parse(now) - Date.now();
  if (Number.isNaN(off)) return;
  const next = Math.abs(off) < 5000 ? 0 : off;
  const moved = Math.abs(next - ahead) >= 1000;
  ahead = next;
  if (moved) for (const tell of listeners) tell();
}

/** What time it is for the program. */
export const clockNow = () => new Date(Date.now() + ahead);

/** The program's time in milliseconds, told anew every so often and at once when the clock is moved. */
export function useClock(every: number): number {
  const [now, setNow] = useState(() => clockNow().getTime());
  useEffect(() => {
    const tell = () => setNow(clockNow().getTime());
    tell();
    listeners.add(tell);
    const timer = setInterval(tell, every);
    return () => {
      listeners.delete(tell);
      clearInterval(timer);
    };
  }, [every]);
  return now;
}
