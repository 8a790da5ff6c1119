import type { Schemas } from "../../api/client";

/** Words of which those that the search hit are marked. */
export function Marked({ pieces, plain }: { pieces?: Schemas["Piece"][]; plain: string }) {
  if (!pieces?.some((p) => p.hit)) return <>{plain}</>;
  return pieces.map((p, i) =>
    p.hit ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: pieces have no other identity
      <mark key={i} className="rounded-xs bg-advice-soft text-ink">
        {p.text}
      </mark>
    ) : (
      p.text
    ),
  );
}
