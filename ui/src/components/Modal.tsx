import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { X } from "lucide-react";
import { type ReactNode, useState } from "react";
import { useUnsaved, useWords } from "../app/unsaved";
import { Button } from "./Button";

type Props = {
  title: string;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
  full?: boolean;
  foot?: ReactNode;
  /** What was typed is stored, and the dialog shows what came of it. */
  saved?: boolean;
};

/** A dialog. Words that were typed in it are not thrown away by Esc or by a press beside it: it asks first. */
export function Modal({ title, onClose, children, wide = false, full = false, foot, saved = false }: Props) {
  const { typed, onInput } = useWords();
  const [asking, setAsking] = useState(false);
  const unsaved = typed && !saved;
  useUnsaved(unsaved, `“${title}”`, undefined, true);
  const leave = () => (unsaved ? setAsking(!asking) : onClose());
  return (
    <Dialog open onClose={leave} className="relative z-40">
      <div className="fixed inset-0 bg-ink/25 dark:bg-black/50" aria-hidden />
      <div className="fixed inset-0 flex items-start justify-center overflow-auto p-3 pt-[6vh] sm:p-6 sm:pt-[8vh]">
        <DialogPanel
          onInput={onInput}
          onKeyDown={(e) => {
            if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey) || e.defaultPrevented) return;
            // The last one: below the others, in the foot where there is one.
            const acts = e.currentTarget.querySelectorAll<HTMLButtonElement>("button[data-look=main]");
            const act = acts[acts.length - 1];
            if (!act || act.disabled) return;
            e.preventDefault();
            e.stopPropagation();
            act.click();
          }}
          className={`flex max-h-[84vh] w-full flex-col rounded-sm border border-rule-strong bg-sheet ${full ? "max-w-[88rem]" : wide ? "max-w-5xl" : "max-w-xl"}`}
        >
          <div className="flex items-center border-b border-rule px-5 py-3">
            <DialogTitle className="font-serif text-lg font-semibold">{title}</DialogTitle>
            <button
              type="button"
              onClick={leave}
              aria-label="Close"
              className="-mr-2 ml-auto p-2 text-ink-soft hover:text-ink"
            >
              <X size={18} aria-hidden />
            </button>
          </div>
          <div className="min-h-0 flex-1 overflow-auto p-5">{children}</div>
          {asking && (
            <div
              role="alert"
              className="flex flex-wrap items-center gap-3 border-t border-rule bg-advice-soft px-5 py-3"
            >
              <span className="mr-auto">What you typed here isn’t saved.</span>
              <Button autoFocus onClick={() => setAsking(false)}>
                Keep it open
              </Button>
              <Button onClick={onClose}>Close without saving</Button>
            </div>
          )}
          {foot && <div className="flex flex-wrap items-center gap-3 border-t border-rule px-5 py-3">{foot}</div>}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
