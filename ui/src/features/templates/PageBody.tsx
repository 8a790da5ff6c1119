import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";

type Page = Schemas["PageOut"];
type Props = {
  body: string;
  /** The page as the server gave it last, when that is the body. */
  known: Page | undefined;
  readOnly: boolean;
  chosen: number | null;
  onChoose: (part: number | null, page: Page) => void;
  onPage: (page: Page) => void;
  frame: React.RefObject<HTMLIFrameElement | null>;
};

const looks = `
  [data-part]{cursor:text;border-radius:2px}
  [data-part]:hover,[data-picture]:hover{outline:1px dashed #1f4d3a;outline-offset:2px}
  [data-part]:focus,[data-picture]:focus{outline:2px solid #1f4d3a;outline-offset:2px}
  [data-chosen]{outline:2px solid #1f4d3a!important;outline-offset:2px}
  [data-mark]{color:#1f4d3a;background:#e6ede6;font-variant:small-caps;border-bottom:1px dotted #1f4d3a}
  body.read-only [data-part]{cursor:default}`;

/** A page that was brought in, as it will look. Its words, links and pictures are chosen in it and changed in the margin. */
export function PageBody({ body, known, readOnly, chosen, onChoose, onPage, frame }: Props) {
  const [page, setPage] = useState<Page>();
  const [height, setHeight] = useState(480);
  const latest = useRef({ known, onChoose, onPage, readOnly });
  latest.current = { known, onChoose, onPage, readOnly };

  useEffect(() => {
    if (body === latest.current.known?.body) return; // changed part by part, and shown already
    let current = true;
    (async () => {
      const { data, error } = await api.POST("/api/templates/page", { body: { body } }).catch(noAnswer);
      if (!current) return;
      if (!data) return void toast.error(wordsOf(error));
      setPage(data);
      latest.current.onPage(data);
    })();
    return () => {
      current = false;
    };
  }, [body]);

  useEffect(() => {
    const doc = frame.current?.contentDocument;
    for (const el of doc?.querySelectorAll("[data-chosen]") ?? []) el.removeAttribute("data-chosen");
    if (chosen !== null) partOf(doc, chosen)?.setAttribute("data-chosen", "");
  }, [chosen, frame]);

  const loaded = () => {
    const doc = frame.current?.contentDocument;
    if (!doc) return;
    const style = doc.createElement("style");
    style.textContent = looks;
    doc.head.append(style);
    doc.body.classList.toggle("read-only", readOnly);
    setHeight(doc.documentElement.scrollHeight + 4);
    const choose = (el: Element | null | undefined) => {
      const { known: now, onChoose: tell, readOnly: fixed } = latest.current;
      const part = el?.getAttribute("data-part") ?? el?.getAttribute("data-picture");
      if (now && !fixed) tell(part === null || part === undefined ? null : Number(part), now);
    };
    const near = (e: Event) => (e.target as Element).closest?.("[data-part],[data-picture]");
    doc.addEventListener("click", (e) => {
      e.preventDefault();
      choose(near(e));
    });
    doc.addEventListener("keydown", (e) => {
      if (e.key !== "Enter" && e.key !== " ") return;
      e.preventDefault();
      choose(near(e));
    });
    if (readOnly) return;
    for (const el of doc.querySelectorAll<HTMLElement>("[data-part],[data-picture]")) {
      el.tabIndex = 0;
      el.setAttribute("role", "button");
      el.setAttribute("aria-label", `Change: ${el.textContent || el.getAttribute("alt") || "picture"}`);
    }
  };
  if (!page) return null;
  return (
    <iframe
      ref={frame}
      title="The page"
      sandbox="allow-same-origin"
      srcDoc={page.shown}
      style={{ height }}
      onLoad={loaded}
      className="block w-full border border-rule bg-white"
    />
  );
}

export function partOf(doc: Document | null | undefined, part: number): HTMLElement | null {
  return (
    doc?.querySelector<HTMLElement>(`[data-part="${part}"],[data-picture="${part}"],[data-link="${part}"]`) ?? null
  );
}

/** Shows the new words of a part where they stand, so that the page does not load anew. */
export function showPart(doc: Document | null | undefined, part: number, words: string) {
  const el = doc?.querySelector<HTMLElement>(`[data-part="${part}"]`);
  if (!el) return;
  el.replaceChildren(
    ...words.split(/(‹[^›]*›)/).map((piece) => {
      if (!piece.startsWith("‹")) return el.ownerDocument.createTextNode(piece);
      const mark = el.ownerDocument.createElement("span");
      mark.dataset.mark = "";
      mark.textContent = piece;
      return mark;
    }),
  );
}
