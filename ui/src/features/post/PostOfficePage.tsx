import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { $api } from "../../api/client";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { Tabs } from "../../components/Tabs";
import { momentOf } from "../../components/time";
import { MailSheet } from "../letters/MailSheet";
import { CharacterChoice, Errands, WorldClock } from "./World";

/** What the recipients see: the mail world that ships with the program. */
export function PostOfficePage() {
  const { mailbox } = useParams();
  const [params] = useSearchParams();
  const [q, setQ] = useState("");
  const boxes = $api.useQuery("get", "/api/post-office", { params: { query: { q } } }, { refetchInterval: 3000 });
  const name = mailbox ?? boxes.data?.[0]?.name;
  return (
    <div className="grid min-h-full grid-cols-1 md:grid-cols-[19rem_minmax(0,1fr)]">
      <nav aria-label="Mailboxes" className="border-rule md:border-r">
        <div className="px-4 pt-4 pb-2 sm:px-6">
          <h1 className="font-serif text-2xl font-semibold">Post office</h1>
          <p className="text-sm text-ink-soft">
            The mailboxes of the people you write to, while no mail server is set up. When you open a letter here, it
            counts as opened by its reader.
          </p>
          <WorldClock />
          <input
            type="search"
            aria-label="Search mailboxes"
            placeholder="Search addresses"
            value={q}
            onChange={(e) => setQ(e.target.value)}
            className="mt-2 w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
          />
        </div>
        <ProblemText error={boxes.error} />
        {boxes.data?.length === 0 && (
          <p className="px-6 py-4 text-ink-soft">{q ? "No mailbox matches." : "No letters have arrived yet."}</p>
        )}
        <ul>
          {boxes.data?.map((b) => (
            <li key={b.name}>
              <Link
                to={`/post-office/${encodeURIComponent(b.name)}`}
                aria-current={b.name === name ? "page" : undefined}
                className={`flex gap-3 border-b border-rule px-4 py-1.5 sm:px-6 ${b.name === name ? "bg-main-soft" : "hover:bg-sheet"}`}
              >
                <span className="min-w-0 flex-1 truncate">{b.name}</span>
                <span className="text-ink-soft">{b.count}</span>
              </Link>
            </li>
          ))}
        </ul>
      </nav>
      {name && <Mailbox key={name} name={name} open={Number(params.get("letter")) || null} />}
    </div>
  );
}

function Mailbox({ name, open }: { name: string; open: number | null }) {
  const letters = $api.useQuery(
    "get",
    "/api/post-office/{mailbox}",
    { params: { path: { mailbox: name } } },
    { refetchInterval: 3000 },
  );
  const id = open ?? letters.data?.[0]?.id;
  return (
    <div className="min-w-0 px-4 py-4 sm:px-8">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="text-ink-soft">Mailbox of {name}</h2>
        <CharacterChoice mailbox={name} />
      </div>
      <ProblemText error={letters.error} />
      {letters.data?.length === 0 && <p className="mt-4 text-ink-soft">No letters here.</p>}
      <ul className="mt-2 max-h-48 overflow-auto border border-rule bg-sheet empty:hidden">
        {letters.data?.map((l) => (
          <li key={l.id}>
            <Link
              to={`?letter=${l.id}`}
              aria-current={l.id === id ? "true" : undefined}
              className={`flex gap-4 border-b border-rule px-3 py-1 ${l.id === id ? "bg-main-soft" : ""}`}
            >
              <span className="min-w-0 flex-1 truncate font-serif">{l.subject}</span>
              <span className="shrink-0 text-sm text-ink-soft">{momentOf(l.arrivedAt)}</span>
            </Link>
          </li>
        ))}
      </ul>
      {id && <PostLetter key={id} id={id} />}
    </div>
  );
}

function PostLetter({ id }: { id: number }) {
  const [view, setView] = useState<"seen" | "source">("seen");
  const letter = $api.useQuery(
    "get",
    "/api/post-office-letters/{id}",
    { params: { path: { id } } },
    { refetchInterval: 5000 },
  );
  if (letter.isPending) return <Loading />;
  if (letter.error) return <ProblemText error={letter.error} />;
  return (
    <article className="mx-auto mt-5 max-w-2xl" aria-label={`Received: ${letter.data.subject}`}>
      <div className="mb-3">
        <Tabs
          label="Letter as"
          choices={[
            ["seen", "As read"],
            ["source", "Raw source"],
          ]}
          value={view}
          onChange={setView}
        />
      </div>
      <Errands list={letter.data.errands} />
      {view === "seen" ? (
        <MailSheet mail={letter.data.mail} />
      ) : (
        <section
          // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolled region must be reachable by key
          tabIndex={0}
          aria-label="Raw source"
          className="overflow-auto border border-rule bg-sheet p-4 font-mono text-sm whitespace-pre"
        >
          {letter.data.source}
        </section>
      )}
    </article>
  );
}
