import { useEffect, useEffectEvent, useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { takeTyped } from "../../app/typedAhead";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";

export type Choice = Schemas["Choice"];

type Props = {
  title: string;
  personId: number;
  /** The deal that is settled; without one it is asked for where there are several. */
  dealId?: number;
  /** What stands before the templates while nothing is searched, such as a draft to go on with; what its button says. */
  first?: (Choice & { act: string })[];
  /** What can be chosen besides templates. */
  others: Choice[];
  /** What Enter and the first button do, and a second button for what else can be done with a choice. */
  act: string;
  otherAct?: (choice: Choice) => string;
  onPick: (choice: Choice, deal: number, other: boolean) => Promise<void>;
  onClose: () => void;
};

/** Which template? Search, look at it merged, Enter. */
export function Picker({ title, personId, dealId, first = [], others, act, otherAct, onPick, onClose }: Props) {
  const [q, setQ] = useState("");
  const [at, setAt] = useState(0);
  const [asked, setAsked] = useState(0);
  const [busy, setBusy] = useState(false);
  const [early, setEarly] = useState(false); // Enter was pressed before the list was there
  const deal = dealId ?? asked;
  const path = { id: personId };
  const person = $api.useQuery("get", "/api/people/{id}", { params: { path } });
  const choices = $api.useQuery(
    "get",
    "/api/people/{id}/templates",
    { params: { path, query: { deal } } },
    { staleTime: 0 },
  );
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string) => words.every((w) => text.toLowerCase().includes(w));
  // A hit in the name comes before one in the note or the subject.
  const list = [...(choices.data ?? []), ...others]
    .filter((c) => holds(`${c.name} ${c.whenToUse} ${c.subject}`))
    .sort((a, b) => Number(holds(b.name)) - Number(holds(a.name)));
  if (words.length === 0 && choices.data) list.unshift(...first);
  const chosen = list[Math.min(at, list.length - 1)];

  const reads = person.data?.person.language;
  const fitting = (choices.data ?? []).filter((c) => c.fits);
  const none = reads && fitting.length > 0 && fitting.every((c) => c.foreign) ? languageName(reads) : "";

  const pick = async (c: Choice | undefined, other = false) => {
    if (!c?.fits || busy) return;
    setBusy(true);
    await onPick(c, deal, other);
    setBusy(false);
  };
  const pickEarly = useEffectEvent(() => {
    void pick(chosen);
    setEarly(false);
  });
  useEffect(() => {
    if (choices.data && early) pickEarly();
  }, [choices.data, early]);
  const move = (by: number) => {
    const next = Math.max(0, Math.min(list.length - 1, at + by));
    setAt(next);
    document.getElementById(`choice-${list[next]?.id}`)?.scrollIntoView({ block: "nearest" });
  };

  return (
    <Modal title={title} onClose={onClose} wide>
      <div className="grid grid-cols-1 gap-6 md:grid-cols-[20rem_minmax(0,1fr)]">
        <div className="min-w-0">
          <input
            role="combobox"
            aria-label="Search templates"
            aria-expanded="true"
            aria-controls="choices"
            aria-activedescendant={chosen ? `choice-${chosen.id}` : undefined}
            placeholder="Search templates"
            autoComplete="off"
            data-autofocus
            // biome-ignore lint/a11y/noAutofocus: the dialog was opened to search
            autoFocus
            value={q}
            onFocus={() => {
              const ahead = takeTyped(); // no sooner: keys come here only from now on
              setQ((before) => before + ahead.words);
              setEarly((before) => before || ahead.entered);
            }}
            onChange={(e) => {
              setQ(e.target.value);
              setAt(0);
              setEarly(false);
            }}
            onKeyDown={(e) => {
              const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
              if (by) {
                e.preventDefault();
                move(by);
              }
              if (e.key === "Enter") {
                e.preventDefault();
                if (choices.isPending) setEarly(true);
                else void pick(chosen);
              }
            }}
            className="w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
          />
          {dealId === undefined && <Deals deals={person.data?.deals ?? []} value={asked} onChange={setAsked} />}
          <ProblemText error={choices.error} />
          {none && (
            <p role="status" className="mt-2 text-sm text-advice">
              {person.data?.person.firstName || person.data?.name} reads {none}, and no template that fits is in it.
            </p>
          )}
          {person.data && !person.data.person.email && (
            <p role="status" className="mt-2 text-sm text-advice">
              {person.data.name || person.data.person.companyName} has no email address. You can add it when you write.
            </p>
          )}
          {choices.isPending && <Loading />}
          <div id="choices" role="listbox" aria-label="Templates" className="mt-2 max-h-[56vh] overflow-auto">
            {list.map((c, i) => (
              <div
                key={c.id}
                id={`choice-${c.id}`}
                role="option"
                tabIndex={-1}
                aria-selected={c === chosen}
                aria-disabled={!c.fits}
                onClick={() => setAt(i)}
                onDoubleClick={() => pick(c)}
                onKeyDown={(e) => e.key === "Enter" && pick(c)}
                className={`border-b border-rule px-2 py-1.5 ${c === chosen ? "bg-main-soft" : ""} ${c.fits ? "" : "text-ink-soft"}`}
              >
                <span className="font-serif font-medium">{c.name}</span>
                {c.foreign && <span className="ml-2 text-sm text-advice">{c.language}</span>}
                <span className="block text-sm text-ink-soft">{c.fits ? c.whenToUse : c.reason}</span>
              </div>
            ))}
            {choices.data && list.length === 0 && <p className="py-3 text-ink-soft">No templates match “{q}”.</p>}
          </div>
        </div>
        {chosen && (
          <Preview
            choice={chosen}
            busy={busy}
            act={first.find((c) => c.id === chosen.id)?.act ?? act}
            otherAct={otherAct?.(chosen) ?? ""}
            onPick={(other) => pick(chosen, other)}
            onWording={(id) => pick({ ...chosen, id, fits: true })}
          />
        )}
      </div>
    </Modal>
  );
}

function languageName(code: string): string {
  try {
    return new Intl.DisplayNames("en", { type: "language" }).of(code) ?? code;
  } catch {
    return code;
  }
}

function Deals({
  deals,
  value,
  onChange,
}: {
  deals: Schemas["DealLine"][];
  value: number;
  onChange: (id: number) => void;
}) {
  if (deals.length < 2) return null;
  return (
    <label className="mt-2 block text-sm">
      <span className="text-ink-soft">About the deal</span>
      <select className="ml-2 bg-transparent" value={value} onChange={(e) => onChange(Number(e.target.value))}>
        <option value={0}>choose …</option>
        {deals.map((d) => (
          <option key={d.id} value={d.id}>
            {d.name} ({d.stage})
          </option>
        ))}
      </select>
    </label>
  );
}

type PreviewProps = {
  choice: Choice;
  busy: boolean;
  act: string;
  otherAct: string;
  onPick: (other: boolean) => void;
  /** Takes the wording in another language. */
  onWording: (id: number) => void;
};

function Preview({ choice, busy, act, otherAct, onPick, onWording }: PreviewProps) {
  return (
    <section aria-label="Preview" className="flex min-w-0 flex-col">
      <div className="min-h-64 flex-1 border border-rule px-6 py-5">
        {choice.id === 0 && <p className="text-ink-soft">A blank page addressed to this person.</p>}
        {!choice.fits && <p className="text-ink-soft">This template {choice.reason}.</p>}
        <h3 className="mb-3 font-serif text-lg font-semibold">{choice.subject}</h3>
        <div className="letter-text max-h-[44vh] overflow-auto text-base!">{choice.preview}</div>
      </div>
      {choice.fits && choice.others.length > 0 && (
        <p className="mt-2 flex flex-wrap gap-x-4 text-sm text-ink-soft">
          {choice.language && `In ${choice.language}. `}
          {choice.others.map((w) => (
            <button
              key={w.id}
              type="button"
              disabled={busy}
              className="text-main hover:underline"
              onClick={() => onWording(w.id)}
            >
              Use it in {w.name || "another language"}
            </button>
          ))}
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-4">
        <Button look="main" disabled={!choice.fits || busy} onClick={() => onPick(false)}>
          {act}
        </Button>
        {otherAct && (
          <Button disabled={!choice.fits || busy} onClick={() => onPick(true)}>
            {otherAct}
          </Button>
        )}
        {choice.fits && choice.gaps > 0 && (
          <span className="text-stop">
            {plural(choice.gaps, "value is", "values are")} missing; you can fill {choice.gaps === 1 ? "it" : "them"} in
            next
          </span>
        )}
      </div>
    </section>
  );
}
