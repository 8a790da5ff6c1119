import { useEffect, useRef, useState } from "react";
import { fillFrame, outsideFrame } from "./outsideFrame";

type Props = {
  html: string;
  title: string;
  className?: string;
  /** Below 1 the page is laid out for a wider screen and shown smaller. */
  scale?: number;
  /** As a reader who likes it dark sees it. */
  dark?: boolean;
  /** Pictures from elsewhere are fetched: of a letter that is written here, or when a reader asked for them. */
  outside?: boolean;
};

/** A page of HTML as its reader sees it: no scripts, links open nowhere, as high as what is in it. */
export function PageFrame({ html, title, className = "", scale = 1, dark = false, outside = false }: Props) {
  const [height, setHeight] = useState(320);
  const frame = useRef<HTMLIFrameElement>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const doc = outside && ready && frame.current ? fillFrame(frame.current, html) : null;
    if (doc) setHeight(doc.documentElement.scrollHeight + 4);
  }, [outside, ready, html]);
  const measured = (doc: Document | null) => setHeight((doc?.documentElement.scrollHeight ?? 300) + 4);
  // The page asks prefers-color-scheme, which a frame has from the element that it is in (CSS Color Adjustment 1, 2.3).
  const shade = { colorScheme: dark ? "dark" : "light" };
  return (
    <iframe
      title={title}
      // Until its page is there it is empty, and nothing to be read.
      aria-hidden={!ready}
      sandbox="allow-same-origin"
      ref={frame}
      key={outside ? "outside" : "own"}
      {...(outside ? { src: outsideFrame } : { srcDoc: html })}
      style={
        scale === 1
          ? { height, ...shade }
          : {
              height,
              ...shade,
              width: `${100 / scale}%`,
              maxWidth: "none",
              transform: `scale(${scale})`,
              transformOrigin: "0 0",
              marginBottom: height * (scale - 1),
            }
      }
      onLoad={(e) => {
        const doc = e.currentTarget.contentDocument;
        // Pictures of a page that is put in come after it.
        if (outside) doc?.addEventListener("load", () => measured(doc), true);
        else measured(doc);
        setReady(true);
      }}
      className={`block w-full border-0 ${dark ? "bg-[#121212]" : "bg-white"} ${className}`}
    />
  );
}
