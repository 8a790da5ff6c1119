import { type RefObject, useMemo, useState } from "react";
import type { MarginNote } from "../../components/Margin";
import { partOf } from "../../components/PartsFrame";
import { selectedNote } from "../../editor/SelectedNote";
import { isFixed, useSelected } from "../../editor/selected";
import { keptNote, notesOf } from "./deskMargin";
import { inAddresses } from "./inAddresses";
import { LetterPartNote } from "./LetterPartNote";
import type { useAround } from "./useAround";
import type { Letter } from "./useDraft";
import type { Editors } from "./useEditors";
import type { useFilling } from "./useFilling";

type Props = {
  letter: Letter;
  sheet: RefObject<HTMLDivElement | null>;
  editors: Editors;
  values: ReturnType<typeof useFilling>;
  acts: ReturnType<typeof useAround>;
  page: { frame: RefObject<HTMLIFrameElement | null>; part: number | null; onPart: (part: number | null) => void };
  onSwap: (piece: number) => void;
};

/** What stands in the margin of a letter: about what is selected, its gaps and names, advice, the part of a page. */
export function useDeskNotes({ letter, sheet, editors, values, acts, page, onSwap }: Props): MarginNote[] {
  const { formatted } = editors;
  const { filling, fill, answer, writeBack, settleNews, settleKept } = values;
  const { takeOut, askNoMore, unlink, leaveSo, setPartWords } = acts;
  const { frame, part, onPart } = page;
  const selected = useSelected(formatted);
  const [waved, setWaved] = useState<string[]>([]);
  const partNotes = useMemo(
    () => (part === null ? [] : [partNote(letter, part, frame, setPartWords, () => onPart(null))]),
    [letter, part, frame, setPartWords, onPart],
  );
  return useMemo(
    () => [
      ...(formatted && selected.length > 0 && !isFixed(formatted)
        ? [selectedNote(formatted, selected, [], inAddresses(letter))]
        : []),
      ...keptNote(letter.kept, settleKept),
      ...notesOf(letter, sheet, filling, fill, answer, waved, (code) => setWaved((w) => [...w, code]), {
        onOut: takeOut,
        onSwap,
        onAskNoMore: askNoMore,
        onWriteBack: writeBack,
        onUnlink: unlink,
        onLeaveSo: leaveSo,
        onNews: settleNews,
      }),
      ...partNotes,
    ],
    [
      formatted,
      selected,
      letter,
      sheet,
      filling,
      fill,
      answer,
      waved,
      takeOut,
      onSwap,
      askNoMore,
      writeBack,
      unlink,
      leaveSo,
      settleNews,
      settleKept,
      partNotes,
    ],
  );
}

/** The words of one part of a page, beside that part. */
function partNote(
  letter: Letter,
  part: number,
  frame: RefObject<HTMLIFrameElement | null>,
  onKeep: (part: number, text: string) => Promise<void>,
  onClose: () => void,
): MarginNote {
  return {
    key: `part ${part}`,
    tone: "quiet",
    anchor: () => {
      const box = frame.current?.getBoundingClientRect();
      const el = partOf(frame.current?.contentDocument, part)?.getBoundingClientRect();
      return box && el ? new DOMRect(box.x + el.x, box.y + el.y, el.width, el.height) : null;
    },
    content: <LetterPartNote key={part} letter={letter} part={part} onKeep={onKeep} onClose={onClose} />,
  };
}
