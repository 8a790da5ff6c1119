import { useState } from "react";

type Props = {
  html: string;
  title: string;
  className?: string;
  /** Below 1 the page is laid out for a wider screen and shown smaller. */
  scale?: number;
  /** As a reader who likes it dark sees it. */
  dark?: boolean;
};

/** A page of HTML as its reader sees it: no scripts, links open nowhere, as high as what is in it. */
export function PageFrame({ html, title, className = "", scale = 1, dark = false }: Props) {
  const [height, setHeight] = useState(320);
  // The page asks prefers-color-scheme, which a frame has from the element that it is in (CSS Color Adjustment 1, 2.3).
  const shade = { colorScheme: dark ? "dark" : "light" };
  return (
    <iframe
      title={title}
      sandbox="allow-same-origin"
      srcDoc={html}
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
      onLoad={(e) => setHeight((e.currentTarget.contentDocument?.documentElement.scrollHeight ?? 300) + 4)}
      className={`block w-full border-0 ${dark ? "bg-[#121212]" : "bg-white"} ${className}`}
    />
  );
}
