import { keepPreviousData } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight, Send } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { LetterWords } from "../../components/LetterWords";
import { Modal } from "../../components/Modal";
import { PageFrame } from "../../components/PageFrame";
import { ProblemText } from "../../components/ProblemText";
import { Tabs } from "../../components/Tabs";

type Props = {
  wording: Schemas["Input"];
  documents: number[];
  hardest: Schemas["ReachPerson"] | undefined;
  onFacts: (facts: Schemas["Fact"][]) => void;
};

type Look = "desktop" | "phone" | "text";

/** A formatted letter as it will be seen: on a desktop, on a phone, and as text. */
function Page({ trial, look, onLook }: { trial: Schemas["Trial"]; look: Look; onLook: (look: Look) => void }) {
  const [beside, setBeside] = useState(false);
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <Tabs
          label="Show on"
          choices={[
            ["desktop", "Desktop"],
            ["phone", "Phone"],
            ["text", "Text"],
          ]}
          value={look}
          onChange={onLook}
        />
        <Button look="quiet" onClick={() => setBeside(true)}>
          All three side by side
        </Button>
      </div>
      {beside && (
        <Modal title={`As ${trial.name} would get it`} full onClose={() => setBeside(false)}>
          <div className="grid gap-6 lg:grid-cols-[minmax(0,1.5fr)_390px_minmax(0,1fr)]">
            <section aria-label="Desktop">
              <h3 className="mb-2 text-sm text-ink-soft">Desktop</h3>
              <div className="overflow-hidden border border-rule">
                <PageFrame outside html={trial.html} title="The letter on a desktop" scale={0.64} />
              </div>
            </section>
            <section aria-label="Phone">
              <h3 className="mb-2 text-sm text-ink-soft">Phone, 390 pixels wide</h3>
              <PageFrame
                outside
                html={trial.html}
                title="The letter on a phone"
                className="max-w-[390px] border! border-rule!"
              />
            </section>
            <section aria-label="Text">
              <h3 className="mb-2 text-sm text-ink-soft">Text</h3>
              <div className="letter-text border border-rule p-4 text-base!">{trial.text}</div>
            </section>
          </div>
        </Modal>
      )}
      <div className="mt-4">
        {look === "text" ? (
          <div className="letter-text">{trial.text}</div>
        ) : (
          <PageFrame
            outside
            key={look}
            html={trial.html}
            title="The letter"
            className={look === "phone" ? "mx-auto max-w-[390px] border! border-rule!" : ""}
          />
        )}
      </div>
    </>
  );
}

/** The wording merged with real people, one after the other. */
export function Trial({ wording, documents, hardest, onFacts }: Props) {
  const [at, setAt] = useState<{ index: number; personId: number }>({ index: 0, personId: 0 });
  const [search, setSearch] = useState("");
  const [look, setLook] = useState<Look>("desktop");
  const trial = $api.useQuery(
    "post",
    "/api/templates/preview",
    { body: { ...wording, search, index: at.index, ...(at.personId ? { personId: at.personId } : {}) } },
    { placeholderData: keepPreviousData, staleTime: 0 },
  );
  const t = trial.data;
  const tell = useRef(onFacts);
  tell.current = onFacts;
  useEffect(() => {
    if (t) tell.current(t.facts);
  }, [t]);
  const [sending, setSending] = useState(false);
  const sendTest = async () => {
    if (!t) return;
    setSending(true);
    const { error } = await api
      .POST("/api/templates/test", { body: { ...wording, documents, personId: t.personId } })
      .catch(noAnswer);
    setSending(false);
    if (error) toast.error(wordsOf(error));
    else toast.success(`Sent to you as ${t.name} would get it.`);
  };
  const step = (by: number) => {
    const total = t?.total || 1;
    setAt({ index: at.personId ? 0 : (at.index + by + total) % total, personId: 0 });
  };
  return (
    <section aria-label="Tried on">
      <div className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-2 border-b border-rule pb-3">
        <Button onClick={() => step(-1)} aria-label="Previous person">
          <ChevronLeft size={15} aria-hidden />
        </Button>
        <Button onClick={() => step(1)}>
          Next <ChevronRight size={15} aria-hidden />
        </Button>
        <p role="status" className="min-w-0">
          <b className="font-serif">{t?.name}</b>{" "}
          <span className="text-sm text-ink-soft">
            {t ? `${t.kind}${t.total ? `, ${t.index + 1} of ${t.total}` : ", the hardest case"}` : ""}
          </span>
        </p>
        <input
          type="search"
          aria-label="Try another person"
          placeholder="Search people"
          value={search}
          onChange={(e) => {
            setSearch(e.target.value);
            setAt({ index: 0, personId: 0 });
          }}
          className="ml-auto w-40 border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
        />
        <Button disabled={!hardest} onClick={() => hardest && setAt({ index: 0, personId: hardest.id })}>
          Hardest case
        </Button>
        <Button disabled={!t || !!t.reason || sending} onClick={sendTest}>
          <Send size={14} aria-hidden /> Send it to me
        </Button>
      </div>
      <ProblemText error={trial.error} />
      {t && !trial.error && (
        <>
          {t.reason && <p className="mb-3 text-stop">For this person it cannot be used: it {t.reason}.</p>}
          <LetterWords doc={t.subject} className="mb-5 border-b border-rule pb-2 text-[1.35rem]! font-semibold" />
          {t.html ? <Page trial={t} look={look} onLook={setLook} /> : <LetterWords doc={t.body} />}
        </>
      )}
    </section>
  );
}
