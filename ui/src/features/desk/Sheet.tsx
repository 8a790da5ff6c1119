import { Type } from "lucide-react";
import type { RefObject } from "react";
import { Button } from "../../components/Button";
import { PartsFrame } from "../../components/PartsFrame";
import { focusAt } from "../../editor/caret";
import { Emoji } from "../../editor/Emoji";
import { letterExtensions, subjectExtensions } from "../../editor/schema";
import { FormattedWords } from "./FormattedWords";
import type { Letter, useDraft } from "./useDraft";
import { type Editors, toNote } from "./useEditors";
import type { usePieces } from "./usePieces";
import { Words } from "./Words";

type Props = {
  first: Letter;
  draft: ReturnType<typeof useDraft>;
  editors: Editors;
  pieces: ReturnType<typeof usePieces>;
  sheet: RefObject<HTMLDivElement | null>;
  /** Of a page that was brought in: its frame and the part that is changed. */
  page: { frame: RefObject<HTMLIFrameElement | null>; part: number | null; onPart: (part: number | null) => void };
  onFormat: () => void;
  onSlash: () => void;
};

/** The sheet that a letter is written on: its subject and its body, whatever kind that is. */
export function Sheet({ first, draft, editors, pieces, sheet, page, onFormat, onSlash }: Props) {
  const { letter, change } = draft;
  const kind = first.body.attrs.body;
  const body = {
    first: first.body,
    onReady: editors.onBody,
    onChange: (doc: Letter["body"]) => change("body", doc),
    onGap: toNote,
    onSlash,
    onTab: pieces.byShortcut,
  };
  return (
    <div
      ref={sheet}
      className={`min-h-[24rem] border border-rule bg-sheet px-5 py-6 sm:px-12 sm:py-9 ${kind === "plain" ? "" : "paper"}`}
    >
      <Words
        label="Subject"
        extensions={subjectExtensions}
        first={first.subjectDoc}
        multiline={false}
        className="mb-5 border-b border-rule pb-2 text-[1.35rem]! font-semibold"
        onReady={editors.onSubject}
        onChange={(doc) => change("subject", doc)}
        onGap={toNote}
        onEnter={() => focusAt(editors.body.current, "start")}
      />
      {kind === "html" ? (
        <PartsFrame shown={letter.page ?? ""} merged chosen={page.part} frame={page.frame} onChoose={page.onPart} />
      ) : kind === "formatted" ? (
        <FormattedWords {...body} />
      ) : (
        <>
          <div className="-mt-3 mb-2 flex items-center gap-2 text-sm text-ink-soft">
            <Emoji onPick={(sign) => editors.body.current?.chain().focus().insertContent(sign).run()} />
            <Button look="quiet" className="px-1.5! text-sm" onClick={onFormat}>
              <Type size={15} aria-hidden /> Format it
            </Button>
            <span className="hidden sm:inline">Plain text. Format it for bold, lists and pictures.</span>
          </div>
          <Words label="Letter" extensions={letterExtensions} {...body} />
        </>
      )}
    </div>
  );
}
