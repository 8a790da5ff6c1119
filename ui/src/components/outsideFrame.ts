/**
 * The page in which letters are shown whose pictures may come from elsewhere: those written here, and those for which
 * a reader asked. Every other frame has the rules of this program, which fetch nothing from elsewhere.
 */
export const outsideFrame = "/frame";

/** Puts a page of HTML into such a frame. Scripts do not run there: the frame is sandboxed. */
export function fillFrame(frame: HTMLIFrameElement, html: string): Document | null {
  const doc = frame.contentDocument;
  if (!doc) return null;
  const page = new DOMParser().parseFromString(html, "text/html");
  // A page that says neither its language nor its name keeps those of the frame.
  page.documentElement.lang ||= doc.documentElement.lang;
  if (!page.title) page.title = doc.title;
  doc.replaceChild(doc.importNode(page.documentElement, true), doc.documentElement);
  return doc;
}
