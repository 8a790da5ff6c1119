import { useState } from "react";

type Props = {
  html: string;
  title: string;
  className?: string;
  /** Below 1 the page is laid out for a wider screen and shown smaller. */
  scale?: number;
};

/** A page of HTML as its reader sees it: no scripts, links open nowhere, as high as what is in it. */
export function PageFrame({ html, title, className = "", scale = 1 }: Props) {
  const [height, setHeight] = useState(320);
  return (
    <iframe
      title={title}
      sandbox="allow-same-origin"
      srcDoc={html}
      style={
        scale === 1
          ? { height }
          : {
              height,
              width: `${100 / scale}%`,
              maxWidth: "none",
              transform: `scale(${scale})`,
              transformOrigin: "0 0",
              marginBottom: height * (scale - 1),
            }
      }
      onLoad={(e) => setHeight((e.currentTarget.contentDocument?.documentElement.scrollHeight ?? 300) + 4)}
      className={`block w-full border-0 bg-white ${className}`}
    />
  );
}
