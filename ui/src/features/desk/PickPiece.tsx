import { $api } from "../../api/client";
import { type Choice, Picker } from "../find/Picker";
import type { Letter } from "./useDraft";

/** A template by its id, or a passage by its shortcut. */
export type Source = { templateId: number } | { passage: string };

type Props = {
  letter: Letter;
  title: string;
  /** Whether there are words that starting over would lose. */
  written: boolean;
  /** A page takes no pieces. */
  page: boolean;
  onInsert: (from: Source) => Promise<void>;
  onStartOver?: (templateId: number) => Promise<void>;
  onClose: () => void;
};

/** What goes into the letter: a template or a passage, at the cursor or instead of everything. */
export function PickPiece({ letter, title, written, page, onInsert, onStartOver, onClose }: Props) {
  const passages = $api.useQuery("get", "/api/passages").data ?? [];
  const shortcuts = new Map(passages.map((p) => [-p.id, p.shortcut]));
  const others = passages.map(
    (p): Choice => ({
      id: -p.id,
      name: p.name,
      whenToUse: `Passage: type ${p.shortcut} and press Tab`,
      fits: !page,
      reason: "can’t be inserted into an HTML page",
      subject: "",
      preview: p.words,
      gaps: 0,
      language: "",
      foreign: false,
      others: [],
    }),
  );
  const over = !written || page;
  const pick = async (c: Choice, _deal: number, other: boolean) => {
    const passage = shortcuts.get(c.id);
    if (passage) return onInsert({ passage });
    if (onStartOver && other !== over) return onStartOver(c.id);
    await onInsert({ templateId: c.id });
  };
  return (
    <Picker
      title={title}
      personId={letter.personId}
      dealId={letter.dealId ?? 0}
      others={others}
      act={over && onStartOver ? "Use this template" : "Insert here"}
      otherAct={(c) => (written && !page && onStartOver && c.id > 0 ? "Start again with this" : "")}
      onPick={pick}
      onClose={onClose}
    />
  );
}
