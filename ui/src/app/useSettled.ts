import { useEffect, useEffectEvent, useState } from "react";

/**
 * Does something once a list shows what was typed, such as open its first line: a key pressed before that is not lost
 * and does not hit a line of the list before.
 */
export function useSettled(typed: string, settled: boolean, act: () => void): () => void {
  const [wanted, setWanted] = useState(false);
  const now = useEffectEvent(() => {
    setWanted(false);
    act();
  });
  useEffect(() => {
    if (wanted && settled) now();
  }, [wanted, settled]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whoever types on means something else
  useEffect(() => setWanted(false), [typed]);
  return () => setWanted(true);
}
