import { keepPreviousData } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { LetterWords } from "../../components/LetterWords";
import { PageFrame } from "../../components/PageFrame";
import { ProblemText } from "../../components/ProblemText";
import { Tabs } from "../../components/Tabs";

type Props = { wording: Schemas["Typed"]; hardest: Schemas["ReachPerson"] | undefined };

type Look = "desktop" | "phone" | "text";

/** A formatted letter as it will be seen: on a desktop, on a phone, and as text. */
function Page({ trial, look, onLook }: { trial: Schemas["Trial"]; look: Look; onLook: (look: Look) => void }) {
  return (
    <>
      <Tabs
        label="Seen on"
        choices={[
          ["desktop", "Desktop"],
          ["phone", "Phone"],
          ["text", "Text"],
        ]}
        value={look}
        onChange={onLook}
      />
      <div className="mt-4">
        {look === "text" ? (
          <div className="letter-text">{trial.text}</div>
        ) : (
          <PageFrame
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
export function Trial({ wording, hardest }: Props) {
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
          aria-label="Try on somebody else"
          placeholder="Search a person"
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
