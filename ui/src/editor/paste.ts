/** What a paste may hold; more is refused with a word, since a letter could not carry it. */
export const mostPasted = 1024 * 1024;

const blocks = "p,div,h1,h2,h3,h4,h5,h6,ul,ol,li,table,blockquote,hr,pre";

/**
 * Cleans what is pasted from a text program, a mail program or a page: only words, links, lists, tables and simple looks
 * stay. Two line breaks are a new paragraph, an empty paragraph that only made room goes, a list that was typed with
 * signs is a list.
 */
export function cleanPaste(html: string): string {
  const doc = new DOMParser().parseFromString(html, "text/html");
  for (const el of doc.querySelectorAll("style,script,meta,link,title,object,embed,iframe,form,input,svg,o\\:p"))
    el.remove();
  const notes = doc.createTreeWalker(doc.body, NodeFilter.SHOW_COMMENT);
  const gone: Node[] = [];
  while (notes.nextNode()) gone.push(notes.currentNode);
  for (const n of gone) (n as ChildNode).remove();
  for (const el of doc.body.querySelectorAll<HTMLElement>("*")) {
    // Of styles only what says bold, slanted, underlined and struck; fonts and colours of other programs stay there.
    const { fontWeight, fontStyle, textDecorationLine, textAlign } = el.style;
    el.removeAttribute("class");
    el.removeAttribute("id");
    el.removeAttribute("style");
    if (Number(fontWeight) >= 600 || fontWeight === "bold") el.style.fontWeight = "bold";
    else if (fontWeight === "normal" || fontWeight === "400") el.style.fontWeight = "normal";
    if (fontStyle === "italic") el.style.fontStyle = fontStyle;
    if (textDecorationLine) el.style.textDecoration = textDecorationLine;
    if (textAlign === "center" || textAlign === "right") el.style.textAlign = textAlign;
  }
  typedLists(doc);
  for (const el of [...doc.body.querySelectorAll("div,p,td,th,li,body")]) splitAtBreaks(doc, el);
  for (const el of [...doc.body.querySelectorAll("p,div")])
    if (!el.textContent?.replace(/\u00a0/g, " ").trim() && !el.querySelector("img,br,table")) el.remove();
  return doc.body.innerHTML;
}

/** Paragraphs that begin with a sign and space are the items of a list. */
function typedLists(doc: Document) {
  const sign = /^[\s\u00a0]*(?:[·•▪–-]|(\d+)[.)])[\s\u00a0]+/;
  let list: HTMLElement | null = null;
  let last: Element | null = null;
  for (const p of [...doc.body.querySelectorAll("p")]) {
    const found = sign.exec(p.textContent ?? "");
    if (!found || p.closest("li,td,th")) {
      list = null;
      continue;
    }
    const name = found[1] ? "OL" : "UL";
    if (!list || list.tagName !== name || last !== p.previousElementSibling) {
      list = doc.createElement(name);
      p.before(list);
    }
    const item = doc.createElement("li");
    dropStart(p, found[0].length);
    item.append(...p.childNodes);
    list.append(item);
    p.remove();
    last = list;
  }
}

/** Takes the first signs from the words of an element. */
function dropStart(el: Element, count: number) {
  const words = el.ownerDocument.createTreeWalker(el, NodeFilter.SHOW_TEXT);
  let left = count;
  while (left > 0 && words.nextNode()) {
    const text = words.currentNode as Text;
    const cut = Math.min(left, text.data.length);
    text.data = text.data.slice(cut);
    left -= cut;
  }
}

/** Makes paragraphs of what two line breaks part. */
function splitAtBreaks(doc: Document, el: Element) {
  if (el.querySelector(blocks)) return;
  if (!/<br[^>]*>\s*<br/i.test(el.innerHTML)) return;
  const parts = el.innerHTML.split(/(?:<br[^>]*>\s*){2,}/i).filter((part) => part.trim() !== "");
  const made = parts.map((part) => {
    const p = doc.createElement("p");
    p.innerHTML = part;
    return p;
  });
  if (el.tagName === "P" || el.tagName === "DIV") el.replaceWith(...made);
  else el.replaceChildren(...made);
}

/** The pictures among what is pasted or dropped. */
export function picturesIn(data: DataTransfer | null): File[] {
  return [...(data?.files ?? [])].filter((f) => f.type.startsWith("image/"));
}
