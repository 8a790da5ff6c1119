import { createContext, useContext, useEffect } from "react";

/** What a letter begins with: whom it goes to, about which deal, with which template. */
export type Start = { personId?: number; dealId?: number; templateId?: number };

type Writing = {
  /** Begins a letter; what is not given is asked. */
  write: (start: Start) => void;
  /** What the key w begins with on this screen. */
  here: { current: Start | null };
};

export const WritingContext = createContext<Writing>({ write: () => {}, here: { current: null } });

/** Begins letters from anywhere on the screen. */
export function useWriting() {
  return useContext(WritingContext).write;
}

/** Says what the key w begins with as long as this is shown; undefined leaves that to another part of the screen. */
export function useHere(start: Start | null | undefined) {
  const { here } = useContext(WritingContext);
  useEffect(() => {
    if (start === undefined) return;
    here.current = start;
    return () => {
      here.current = null;
    };
  });
}
