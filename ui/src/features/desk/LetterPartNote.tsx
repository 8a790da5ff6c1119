import { useState } from "react";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import type { Letter } from "./useDraft";

type Props = {
  letter: Letter;
  part: number;
  onKeep: (part: number, text: string) => Promise<void>;
  onClose: () => void;
};

/** The note beside a part of a letter that is a page: its words, and where its link leads. */
export function LetterPartNote({ letter, part, onKeep, onClose }: Props) {
  const p = letter.parts?.[part];
  const link = p && p.link >= 0 ? letter.parts?.[p.link] : undefined;
  const [words, setWords] = useState(p?.text ?? "");
  const [address, setAddress] = useState(link?.text ?? "");
  const [busy, setBusy] = useState(false);
  if (!p) return null;
  const keep = async () => {
    setBusy(true);
    if (words !== p.text) await onKeep(part, words);
    if (link && address !== link.text) await onKeep(p.link, address);
    setBusy(false);
    onClose();
  };
  return (
    <form
      className="flex flex-col gap-2 text-sm"
      onSubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      <label>
        <span className="block text-ink-soft">{p.kind === "picture" ? "Alternative text" : "Words"}</span>
        <textarea
          // biome-ignore lint/a11y/noAutofocus: the part was chosen to be changed
          autoFocus
          rows={Math.min(6, 1 + Math.floor(words.length / 30))}
          value={words}
          onChange={(e) => setWords(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Escape") onClose();
            if (e.key !== "Enter" || e.shiftKey || e.ctrlKey) return;
            e.preventDefault();
            void keep();
          }}
          className="w-full border border-rule-strong bg-transparent p-1 text-base outline-none focus:border-main"
        />
      </label>
      {link && <Input label="Link address" value={address} onChange={(e) => setAddress(e.target.value)} />}
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={busy}>
          Save
        </Button>
        <Button look="quiet" onClick={onClose}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
