import { useEffect, useState } from "react";

/** A value as it was when it had not changed for a while (in milliseconds). */
export function useSettledValue<T>(value: T, pause: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), pause);
    return () => clearTimeout(timer);
  }, [value, pause]);
  return settled;
}
