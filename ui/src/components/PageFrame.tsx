import { useState } from "react";

/** A page of HTML as its reader sees it: no scripts, links open nowhere, as high as what is in it. */
export function PageFrame({ html, title, className = "" }: { html: string; title: string; className?: string }) {
  const [height, setHeight] = useState(320);
  return (
    <iframe
      title={title}
      sandbox="allow-same-origin"
      srcDoc={html}
      style={{ height }}
      onLoad={(e) => setHeight((e.currentTarget.contentDocument?.documentElement.scrollHeight ?? 300) + 4)}
      className={`block w-full border-0 bg-white ${className}`}
    />
  );
}
