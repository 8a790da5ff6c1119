import type { Schemas } from "../api/client";

/** A merged document to look at: merged words underlined, gaps and blanks as at the desk. */
export function LetterWords({ doc, className = "" }: { doc: Schemas["Document"]; className?: string }) {
  return (
    <div className={`letter-text ${className}`}>
      {doc.content.map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines have no other identity
        <p key={i} className="min-h-[1.62em]">
          {(line.content ?? []).map((n, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: words have no other identity
            <Word key={k} node={n} />
          ))}
        </p>
      ))}
    </div>
  );
}

function Word({ node }: { node: Schemas["Node"] }) {
  if (node.type === "gap") return <span className={node.attrs?.kind ? "gap blank" : "gap"}>{node.attrs?.label}</span>;
  const merged = node.marks?.find((m) => m.type === "merged");
  const fixed = node.marks?.some((m) => m.type === "fixedWords");
  if (!merged && !fixed) return <>{node.text}</>;
  const words = merged ? (
    <span className="merged" title={merged.attrs?.path}>
      {node.text}
    </span>
  ) : (
    node.text
  );
  return fixed ? <span className="fixed-words">{words}</span> : words;
}
