import { useState } from "react";
import { $api, api } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { SearchLine } from "../../components/SearchLine";
import type { Acting } from "./useRound";
import type { Round } from "./words";

/** Gives one person another template than the others. */
export function TemplateChoice({ round, person, act }: { round: Round; person: number; act: Acting }) {
  const [open, setOpen] = useState(false);
  const [q, setQ] = useState("");
  const choices = $api.useQuery(
    "get",
    "/api/people/{id}/templates",
    { params: { path: { id: person } } },
    { enabled: open },
  ).data;
  const put = async (templateId: number) => {
    setOpen(false);
    await act(
      api.PUT("/api/rounds/{id}/people/{person}/template", {
        params: { path: { id: round.id, person } },
        body: { templateId },
      }),
    );
  };
  const shown = (choices ?? []).filter((c) => c.fits && c.name.toLowerCase().includes(q.toLowerCase()));
  return (
    <>
      <Button look="quiet" className="px-1!" onClick={() => setOpen(true)}>
        Another template
      </Button>
      {open && (
        <Modal title="Another template for this person" onClose={() => setOpen(false)}>
          <SearchLine label="Find a template" hint="Name" value={q} onChange={setQ} />
          <ul className="mt-3">
            <li>
              <button
                type="button"
                className="w-full border-b border-rule py-1.5 text-left hover:text-main"
                onClick={() => void put(0)}
              >
                The same as the others: {round.template}
              </button>
            </li>
            {shown.map((c) => (
              <li key={c.id}>
                <button
                  type="button"
                  className="w-full border-b border-rule py-1.5 text-left hover:text-main"
                  onClick={() => void put(c.id)}
                >
                  <span className="font-serif font-semibold">{c.name}</span>
                  <span className="block text-sm text-ink-soft">{c.whenToUse}</span>
                </button>
              </li>
            ))}
          </ul>
        </Modal>
      )}
    </>
  );
}
