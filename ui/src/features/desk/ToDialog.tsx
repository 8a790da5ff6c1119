import { useQueries } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Select } from "../../components/Select";
import { type Address, type AddressHandle, AddressLine } from "./AddressLine";
import type { Letter } from "./useDraft";

export type To = { toPersonId: number; alsoTo: Address[]; dealId?: number };

type Props = { letter: Letter; onKeep: (to: To) => Promise<string>; onClose: () => void };

const sameAddress = (a: string, b: string) => a.toLowerCase() === b.toLowerCase();

/** Who the letter is addressed to: one person gives the values, others can stand in To beside them. */
export function ToDialog({ letter, onKeep, onClose }: Props) {
  const [list, setList] = useState<Address[]>([
    ...(letter.toEmail ? [{ name: letter.toName, email: letter.toEmail }] : []),
    ...letter.alsoTo,
  ]);
  const [chosen, setChosen] = useState(letter.personId);
  const [deal, setDeal] = useState(letter.dealId);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const known = useQueries({
    queries: list.map((a) =>
      $api.queryOptions("get", "/api/addresses/people", { params: { query: { email: a.email } } }),
    ),
  });
  const people = known.flatMap((k) => k.data ?? []);
  const unknown = list.filter((_, i) => known[i]?.data?.length === 0);
  // Somebody without an address stays the addressee while nobody else was named.
  const same = { name: letter.person, email: "", who: letter.personKind, personId: letter.personId };
  const addressee =
    list.length === 0 && !letter.toEmail
      ? same
      : (people.find((p) => p.personId === chosen) ?? (people.length === 1 ? people[0] : undefined));
  const record = $api.useQuery(
    "get",
    "/api/people/{id}",
    { params: { path: { id: addressee?.personId ?? 0 } } },
    { enabled: addressee !== undefined },
  );
  const deals = record.data?.deals ?? [];
  const open = deals.filter((d) => d.stage !== "won" && d.stage !== "lost");
  // The server takes the only open deal by itself.
  const dealId = deals.some((d) => d.id === deal) ? deal : open.length === 1 ? open[0]?.id : undefined;

  const makeLead = async (a: Address) => {
    const text = a.name ? `${a.name} <${a.email}>` : a.email;
    const { data, error } = await api.POST("/api/people", { body: { text } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    toast.success(`${data.email} has been added as a lead.`);
    setChosen(data.id);
    await known[list.indexOf(a)]?.refetch();
  };
  const line = useRef<AddressHandle>(null);
  const keep = async () => {
    const settled = await line.current?.settle();
    // Somebody who was typed last is shown first: whose details, which deal.
    if (!addressee?.personId || settled?.length !== list.length) return;
    setBusy(true);
    const said = await onKeep({
      toPersonId: addressee.personId,
      alsoTo: list.filter((a) => !sameAddress(a.email, addressee.email)),
      ...(dealId !== undefined && { dealId }),
    });
    setBusy(false);
    if (said) setProblem(said);
    else onClose();
  };

  return (
    <Modal
      title="Recipient"
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" disabled={!addressee || busy} onClick={keep}>
          Change recipient
        </Button>
      }
    >
      <AddressLine ref={line} label="To" value={list} onChange={setList} />
      {unknown.map((a) => (
        <p key={a.email} className="mb-2 text-sm">
          {a.email} is nobody’s address in the records.{" "}
          <button type="button" className="text-main underline" onClick={() => makeLead(a)}>
            Add as a lead
          </button>
        </p>
      ))}
      {people.length > 1 && (
        <fieldset className="mb-4">
          <legend className="text-sm text-ink-soft">Whose details fill the letter?</legend>
          {people.map((p) => (
            <label key={p.personId} className="flex items-baseline gap-2 py-0.5">
              <input
                type="radio"
                name="addressee"
                checked={p === addressee}
                onChange={() => setChosen(p.personId ?? 0)}
                className="accent-main"
              />
              <b className="font-serif">{p.name}</b> <span className="text-sm text-ink-soft">{p.who}</span>
            </label>
          ))}
        </fieldset>
      )}
      {deals.length > 0 && (
        <p className="flex flex-wrap items-baseline gap-x-3 text-sm">
          <span className="text-ink-soft">About the deal</span>
          <Select
            label="About the deal"
            value={String(dealId ?? "")}
            choices={[
              ...(open.length === 1 ? [] : [["", "none"] as const]),
              ...deals.map((d) => [String(d.id), `${d.name}, ${d.amount} · ${d.stage}`] as const),
            ]}
            onChange={(id) => setDeal(Number(id) || undefined)}
          />
        </p>
      )}
      <p className="mt-3 text-sm text-ink-soft">
        Details from the record are updated for the new recipient. What you wrote stays.
      </p>
      {list.length === 0 && <p className="mt-3 text-sm">Type an address or a name.</p>}
      {people.length > 1 && !addressee && <p className="mt-3 text-sm text-advice">Choose whose details to use.</p>}
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
    </Modal>
  );
}
