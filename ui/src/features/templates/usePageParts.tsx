import { type RefObject, useRef, useState } from "react";
import { toast } from "sonner";
import { api, type Schemas, wordsOf } from "../../api/client";
import type { MarginNote } from "../../components/Margin";
import { partOf, showPart } from "../../components/PartsFrame";
import type { Wording } from "../library/wording";
import { PagePartNote } from "./PagePartNote";
import type { TemplateDraft } from "./useTemplate";

export type PageParts = ReturnType<typeof usePageParts>;

/** The parts of a page that was brought in: which is chosen, its note, and its words on their way to the server. */
export function usePageParts({ set }: TemplateDraft, latest: RefObject<Wording>) {
  const [page, setPage] = useState<Schemas["PageOut"]>();
  const [part, setPart] = useState<number | null>(null);
  const [typing, setTyping] = useState(false);
  const frame = useRef<HTMLIFrameElement>(null);
  // Changes of one page go to the server one after the other; nothing is stored meanwhile.
  const queue = useRef(Promise.resolve());
  const setWords = (index: number, words: string) => {
    const mine = queue.current.then(async () => {
      const { data, error } = await api.POST("/api/templates/page-part", {
        body: { body: latest.current.body, part: index, text: words },
      });
      if (!data) return void toast.error(wordsOf(error));
      latest.current = { ...latest.current, body: data.body };
      setPage(data);
      showPart(frame.current?.contentDocument, index, data.parts[index]?.shown ?? "");
      set({ body: data.body });
    });
    queue.current = mine.finally(() => {
      if (queue.current === last) setTyping(false);
    });
    const last = queue.current;
  };
  const note = (fields: Schemas["FieldInfo"][]): MarginNote[] =>
    !page || part === null
      ? []
      : [
          {
            key: "part",
            tone: "quiet",
            anchor: () => {
              const inner = partOf(frame.current?.contentDocument, part)?.getBoundingClientRect();
              const outer = frame.current?.getBoundingClientRect();
              if (!inner || !outer) return null;
              return new DOMRect(outer.left + inner.left, outer.top + inner.top, inner.width, inner.height);
            },
            content: (
              <PagePartNote
                key={part}
                page={page}
                part={part}
                fields={fields}
                onTyping={() => setTyping(true)}
                onText={setWords}
                onClose={() => setPart(null)}
              />
            ),
          },
        ];
  /** Another wording is on the sheet. */
  const forget = () => {
    setPart(null);
    setPage(undefined);
  };
  return { page, setPage, part, setPart, frame, typing, note, forget };
}
