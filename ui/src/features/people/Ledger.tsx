import { useInfiniteQuery } from "@tanstack/react-query";
import { Bot } from "lucide-react";
import { useRef } from "react";
import { api, type Schemas } from "../../api/client";
import { useKeys } from "../../app/keys";
import { Button } from "../../components/Button";
import { ProblemText } from "../../components/ProblemText";
import { Select } from "../../components/Select";
import { clockOf, dayOf, longDayOf } from "../../components/time";
import { backTone, backWords } from "../letters/Back";

type Entry = Schemas["Entry"];
type Group = Schemas["LedgerGroup"];
type Only = "" | "letters" | "back" | "changes";

/** Whose history it is. */
export type Of = { person: number } | { company: number } | { deal: number };
/** What is open beside the ledger. */
export type Open = { letter?: number | undefined; incoming?: number | undefined };

const words: Record<string, string> = {
  created: "Added",
  imported: "Imported",
  changed: "Changed",
  sent: "Letter",
  refused: "Refused",
  opened: "Opened",
  clicked: "Clicked",
  document: "Document",
  replied: "Replied",
  received: "Wrote",
  answered: "Answer",
  away: "Away",
  delayed: "Delayed",
  bounced: "Bounced",
  complained: "Complained",
  "opted out": "Unsubscribed",
  call: "Call",
  visit: "Visit",
  note: "Note",
  deleted: "Deleted",
  "put back": "Put back",
  plan: "Plan",
};

function tone(e: Entry): string {
  if (["replied", "replied to", "received"].includes(e.kind)) return "text-ok font-semibold";
  if (["bounced", "refused", "opted out", "complained"].includes(e.kind)) return "text-stop font-semibold";
  return "text-ink-soft";
}

/** A history, window by window, looked at again while it is shown. */
export function useHistory(of: Of, only: Only = "") {
  return useInfiniteQuery({
    queryKey: ["get", "/api/history", of, only],
    queryFn: async ({ pageParam }) => {
      const { data, error } = await api.GET("/api/history", {
        params: { query: { ...of, ...(only && { only }), ...(pageParam && { offset: pageParam }) } },
      });
      if (!data) throw error;
      return data;
    },
    initialPageParam: 0,
    getNextPageParam: (page) => page.next || undefined,
    refetchInterval: 4000,
    placeholderData: (before) => before,
  });
}

type Props = {
  /** What has not happened yet: its first lines. */
  next: React.ReactNode;
  history: ReturnType<typeof useHistory>;
  only: Only;
  open: Open;
  onOnly: (only: Only) => void;
  onOpen: (what: Open) => void;
};

/** What happened, by day; conversations stand together where they ended. */
export function Ledger({ next, history, only, open, onOnly, onOpen }: Props) {
  const list = useRef<HTMLOListElement>(null);
  const step = (by: number) => {
    const buttons = [...(list.current?.querySelectorAll<HTMLButtonElement>("button") ?? [])];
    const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
    buttons[Math.max(0, Math.min(buttons.length - 1, at + by))]?.focus();
  };
  useKeys({ j: () => step(1), k: () => step(-1), ArrowDown: () => step(1), ArrowUp: () => step(-1) });
  const groups = history.data?.pages.flatMap((p) => p.groups) ?? [];
  const days = new Map<string, Group[]>();
  for (const g of groups) {
    const day = longDayOf(g.at);
    days.set(day, [...(days.get(day) ?? []), g]);
  }
  return (
    <section aria-label="History">
      <div className="flex items-center justify-between px-4 pt-4 sm:px-6">
        <h2 className="text-sm font-semibold text-ink-soft">History</h2>
        <Select
          label="Show"
          value={only}
          choices={[
            ["", "everything"],
            ["letters", "letters and replies"],
            ["back", "replies, opens and bounces"],
            ["changes", "changes to the record"],
          ]}
          onChange={onOnly}
        />
      </div>
      {next}
      <ProblemText error={history.error} />
      {history.data && groups.length === 0 && (
        <p className="px-4 py-5 text-ink-soft sm:px-6">
          {only ? "Nothing to show." : "Nothing yet. Letters, replies and changes appear here."}
        </p>
      )}
      <ol ref={list}>
        {[...days].map(([day, list]) => (
          <li key={day}>
            <h3 className="border-b border-rule px-4 pt-3 pb-1 text-sm font-semibold text-ink-soft sm:px-6">{day}</h3>
            <ol>
              {list.map((g) => (
                <li key={g.key} className="border-b border-rule py-0.5">
                  <Conversation group={g} open={open} onOpen={onOpen} />
                </li>
              ))}
            </ol>
          </li>
        ))}
      </ol>
      {history.hasNextPage && (
        <Button
          look="quiet"
          className="mx-4 my-2"
          disabled={history.isFetchingNextPage}
          onClick={() => history.fetchNextPage()}
        >
          Earlier
        </Button>
      )}
    </section>
  );
}

function Conversation({ group: g, open, onOpen }: { group: Group; open: Open; onOpen: (what: Open) => void }) {
  const back = new Map(g.back.map((b) => [b.letterId, b]));
  // Opens alone were left of an old letter: its line stands for them.
  const alone = g.entries.length === 0 && g.letterId;
  return (
    <>
      {alone && (
        <button
          type="button"
          onClick={() => onOpen({ letter: g.letterId })}
          className={line(g.letterId === open.letter)}
        >
          <span className="w-10 shrink-0 text-sm text-ink-soft">{clockOf(g.at)}</span>
          <span className="min-w-0 flex-1 font-serif">{g.subject}</span>
        </button>
      )}
      {g.entries.map((e) => (
        <Line key={e.id} entry={e} day={longDayOf(g.at)} open={open} onOpen={onOpen}>
          {e.kind === "sent" && e.letterId && back.get(e.letterId) && <Came back={back.get(e.letterId)} />}
        </Line>
      ))}
      {alone && <Came back={g.back[0]} />}
    </>
  );
}

function Came({ back }: { back: Schemas["Back"] | undefined }) {
  if (!back) return null;
  const machines = back.machineOpens + back.machineClicks;
  return (
    <span className={`block text-sm ${backTone(back)}`}>
      {backWords(back)}
      {machines > 0 && !back.opened && <span className="font-normal text-ink-soft"> · fetched by a machine</span>}
    </span>
  );
}

const line = (open: boolean) =>
  `flex w-full items-baseline gap-2 px-4 py-1 text-left sm:px-6 ${open ? "bg-main-soft shadow-[inset_3px_0_0] shadow-main" : "hover:bg-sheet"}`;

type LineProps = {
  entry: Entry;
  day: string;
  open: Open;
  onOpen: (what: Open) => void;
  children: React.ReactNode;
};

function Line({ entry: e, day, open, onOpen, children }: LineProps) {
  const wrote = ["sent", "replied", "received"].includes(e.kind);
  const elsewhere = longDayOf(e.at) !== day;
  const inner = (
    <>
      <span className="w-10 shrink-0 text-sm text-ink-soft">{clockOf(e.at)}</span>
      <span className={`w-18 shrink-0 text-sm ${tone(e)}`}>
        {words[e.kind] ?? e.kind}
        {elsewhere && <span className="block font-normal text-ink-soft">{dayOf(e.at).replace(/ \d{4}$/, "")}</span>}
      </span>
      <span className="min-w-0 flex-1">
        <span className={wrote ? "font-serif" : "text-sm break-words whitespace-pre-line"}>{e.text}</span>
        {e.machine && (
          <span className="ml-2 inline-flex items-center gap-1 text-sm text-ink-soft">
            <Bot size={13} aria-hidden /> a machine
          </span>
        )}
        {children}
      </span>
    </>
  );
  const said = e.detail && (
    <details className="pr-4 pl-32 text-sm text-ink-soft sm:pl-34">
      <summary className="cursor-pointer">details</summary>
      <span className="break-words">{e.detail}</span>
    </details>
  );
  const what: Open | null = e.incomingId ? { incoming: e.incomingId } : e.letterId ? { letter: e.letterId } : null;
  if (!what)
    return (
      <>
        <div className={line(false).replace("hover:bg-sheet", "")}>{inner}</div>
        {said}
      </>
    );
  const shown =
    what.incoming !== undefined
      ? what.incoming === open.incoming
      : !open.incoming && what.letter === open.letter && e.kind === "sent";
  return (
    <>
      <button
        type="button"
        aria-current={shown ? "true" : undefined}
        onClick={() => onOpen(what)}
        className={line(shown)}
      >
        {inner}
      </button>
      {said}
    </>
  );
}
