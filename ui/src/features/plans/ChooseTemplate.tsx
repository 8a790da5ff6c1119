import { useState } from "react";
import { $api } from "../../api/client";
import { useTyped } from "../../app/useTyped";
import { Choose, type Chosen } from "../records/Choose";

type Props = { label: string; value: Chosen | null; onChoose: (template: Chosen) => void };

/** A ready template, chosen by what one types of it. */
export function ChooseTemplate({ label, value, onChoose }: Props) {
  const [q, setQ] = useState("");
  const [, setTyped] = useTyped(q, setQ);
  const found = $api.useQuery(
    "get",
    "/api/templates",
    { params: { query: { q, state: "ready", limit: 12 } } },
    { placeholderData: (d) => d },
  );
  // The name of one that is stored is not known here.
  const known = $api.useQuery(
    "get",
    "/api/templates/{id}",
    { params: { path: { id: value?.id ?? 0 } } },
    { enabled: !!value && !value.name, retry: false },
  ).data;
  const items = (found.data?.templates ?? []).map((t) => ({ id: t.id, name: t.name, note: t.whenToUse }));
  return (
    <Choose
      label={label}
      value={value && { id: value.id, name: value.name || (known?.name ?? "") }}
      items={items}
      found={found.isPlaceholderData ? null : q.trim()}
      none={found.isPlaceholderData || !found.data ? "" : "No ready template matches."}
      onSearch={setTyped}
      onChoose={(t) => {
        if (t) onChoose(t);
      }}
    />
  );
}
