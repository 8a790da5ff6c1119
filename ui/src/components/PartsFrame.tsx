import { useEffect, useRef, useState } from "react";
import { fillFrame, outsideFrame } from "./outsideFrame";

type Props = {
  /** The page with its parts named. */
  shown: string;
  readOnly?: boolean;
  chosen: number | null;
  onChoose: (part: number | null) => void;
  frame: React.RefObject<HTMLIFrameElement | null>;
  /** Marked words are words that were merged, not the labels of fields. */
  merged?: boolean;
};

const looks = `
  [data-part]{cursor:text;border-radius:2px}
  [data-part]:hover,[data-picture]:hover{outline:1px dashed #1f4d3a;outline-offset:2px}
  [data-part]:focus,[data-picture]:focus{outline:2px solid #1f4d3a;outline-offset:2px}
  [data-chosen]{outline:2px solid #1f4d3a!important;outline-offset:2px}
  [data-mark]{color:#1f4d3a;background:#e6ede6;font-variant:small-caps;border-bottom:1px dotted #1f4d3a}
  body.read-only [data-part]{cursor:default}`;

const mergedLooks = "[data-mark]{color:inherit;background:none;font-variant:normal;border-bottom:1px solid #4d7041}";

/** A page as it will look, in which a part is chosen to be changed beside it. */
export function PartsFrame({ shown, readOnly = false, chosen, onChoose, frame, merged = false }: Props) {
  const [height, setHeight] = useState(480);
  const latest = useRef(onChoose);
  latest.current = onChoose;

  useEffect(() => {
    const doc = frame.current?.contentDocument;
    for (const el of doc?.querySelectorAll("[data-chosen]") ?? []) el.removeAttribute("data-chosen");
    if (chosen !== null) partOf(doc, chosen)?.setAttribute("data-chosen", "");
  }, [chosen, frame]);

  const locked = useRef(readOnly);
  locked.current = readOnly;
  const [ready, setReady] = useState(false);

  const listen = () => {
    const doc = frame.current?.contentDocument;
    if (!doc) return;
    const choose = (el: Element | null | undefined) => {
      const part = el?.getAttribute("data-part") ?? el?.getAttribute("data-picture");
      if (!locked.current) latest.current(part === null || part === undefined ? null : Number(part));
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
    doc.addEventListener("load", () => setHeight(doc.documentElement.scrollHeight + 4), true);
    setReady(true);
  };
  const painted = useRef(chosen);
  painted.current = chosen;
  useEffect(() => {
    const doc = ready && frame.current ? fillFrame(frame.current, shown) : null;
    if (!doc) return;
    const style = doc.createElement("style");
    style.textContent = merged ? looks + mergedLooks : looks;
    doc.head.append(style);
    doc.body.classList.toggle("read-only", readOnly);
    setHeight(doc.documentElement.scrollHeight + 4);
    if (readOnly) return;
    for (const el of doc.querySelectorAll<HTMLElement>("[data-part],[data-picture]")) {
      el.tabIndex = 0;
      el.setAttribute("role", "button");
      el.setAttribute("aria-label", `Change: ${el.textContent || el.getAttribute("alt") || "picture"}`);
    }
    if (painted.current !== null) partOf(doc, painted.current)?.setAttribute("data-chosen", "");
  }, [ready, shown, merged, readOnly, frame]);
  return (
    <iframe
      ref={frame}
      title="The page"
      aria-hidden={!ready}
      sandbox="allow-same-origin"
      src={outsideFrame}
      style={{ height }}
      onLoad={listen}
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
