import { useEffect, useEffectEvent, useState } from "react";

/** What is typed into a search, given on when whoever types pauses for a moment (in milliseconds). */
export function useTyped(given: string, give: (typed: string) => void, pause = 150): [string, (typed: string) => void] {
  const [typed, setTyped] = useState(given);
  const now = useEffectEvent(give);
  useEffect(() => {
    if (typed === given) return;
    const timer = setTimeout(() => now(typed), pause);
    return () => clearTimeout(timer);
  }, [typed, given, pause]);
  return [typed, setTyped];
}
