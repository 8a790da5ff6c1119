import type { Schemas } from "../../api/client";

/** Words of which those that were added and taken out are marked. */
export function Stretches({ list }: { list: Schemas["Stretch"][] }) {
  return list.map((s, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: stretches have no other identity
    <Words key={i} stretch={s} />
  ));
}

function Words({ stretch }: { stretch: Schemas["Stretch"] }) {
  if (stretch.kind === "added") return <ins className="words-in">{stretch.text}</ins>;
  if (stretch.kind === "removed") return <del className="words-out">{stretch.text}</del>;
  return <>{stretch.text}</>;
}
