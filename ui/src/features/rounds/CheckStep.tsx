import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { useKeys } from "../../app/keys";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { Tabs } from "../../components/Tabs";
import { MailSheet } from "../letters/MailSheet";
import { MemberList } from "./MemberList";
import { MemberMargin } from "./MemberMargin";
import { Settle } from "./Settle";
import { type Shown, useMembers } from "./useMembers";
import type { Acting } from "./useRound";
import type { Round } from "./words";

type View = "desktop" | "phone" | "text";

/** The letters of a round one by one: people at the left, the letter in the middle, what is to say at the right. */
export function CheckStep({ round, shown, act }: { round: Round; shown: Shown; act: Acting }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useMembers(round.id, shown, scroller);
  const [before, setBefore] = useState(0);
  const [view, setView] = useState<View>("desktop");
  const [list, setList] = useState(false); // on a phone
  const { person, here, setSpot } = useSpot(round.id, shown, rows);
  const letterAt = (id: number, last: number) =>
    $api.queryOptions("get", "/api/rounds/{id}/people/{person}", {
      params: { path: { id: round.id, person: id }, query: { before: last } },
    });
  const letter = $api.useQuery(
    "get",
    "/api/rounds/{id}/people/{person}",
    { params: { path: { id: round.id, person }, query: { before } } },
    { enabled: person !== 0, staleTime: 2_000 },
  );
  const next = rows.rowAt(here + 1)?.personId ?? 0;
  // The next letter is there before it is asked for.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the options are made anew with every drawing
  useEffect(() => {
    if (next && person) void queries.prefetchQuery({ ...letterAt(next, person), staleTime: 2_000 });
  }, [next, person]);

  const show = (id: number, index: number) => {
    if (id !== person) setBefore(person);
    setSpot({ person: id, at: index });
    setList(false);
    shown.set({ person: String(id) });
    rows.virtual.scrollToIndex(index);
  };
  const step = (by: number) => {
    const to = here + by;
    const row = rows.rowAt(to);
    if (row) show(row.personId, to);
    return row !== undefined;
  };
  const done = useDone(round, act);
  const m = letter.data?.person.personId === person ? letter.data.person : undefined;
  const good = async () => {
    if (!m) return;
    if (m.state === "gap") {
      document
        .querySelector<HTMLElement>("[data-gap-note] input, [data-gap-note] textarea, [data-gap-note] select")
        ?.focus();
      return;
    }
    if (["ready", "changed"].includes(m.state) && !m.proofread && !(await done([person], "good", m.sum))) return;
    // In a list of those that are left the next one takes this place.
    if (shown.group === "open") {
      setBefore(person);
      const after = rows.rowAt(here + 1);
      setSpot({ person: after?.personId ?? 0, at: after ? here : 0 });
      shown.set({ person: after ? String(after.personId) : "" });
      if (!after) toast.success("That was the last one.");
    } else if (!step(1)) toast.success("That was the last one.");
  };
  const aside = async () => {
    if (!m) return;
    if (await done([person], m.state === "set aside" ? "back" : "aside")) step(1);
  };
  const change = async () => {
    if (!m || !letter.data?.mail) return;
    const { data, error } = await api
      .POST("/api/rounds/{id}/people/{person}/letter", { params: { path: { id: round.id, person } } })
      .catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    go(`/letters/${data.id}`);
  };
  const search = () => scroller.current?.querySelector<HTMLInputElement>("input[type=search]")?.focus();
  useKeys({
    j: () => step(1),
    k: () => step(-1),
    ArrowDown: () => step(1),
    ArrowUp: () => step(-1),
    // A key that is held down marks one letter, not all of them.
    Enter: (event) => void (!event.repeat && good()),
    e: () => void change(),
    h: (event) => void (!event.repeat && aside()),
    "/": search,
  });

  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <Settle round={round} shown={shown} act={act} />
      <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[17rem_minmax(0,1fr)]">
        <div className={`${list ? "flex" : "hidden"} h-[60vh] min-h-0 border-r border-rule lg:flex lg:h-auto`}>
          <MemberList round={round} rows={rows} scroller={scroller} shown={shown} person={person} onPerson={show} />
        </div>
        <div className="min-h-0 overflow-auto">
          <div className="mx-auto grid w-full max-w-6xl grid-cols-1 gap-x-8 gap-y-4 px-3 py-4 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
            <div className="min-w-0">
              <div className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-2">
                <Button className="lg:hidden" onClick={() => setList(!list)}>
                  {list ? "Hide the list" : "Show the list"}
                </Button>
                <p className="text-sm text-ink-soft" role="status">
                  {rows.total > 0 ? `${here + 1} of ${rows.total}` : ""}
                  {letter.data && letter.data.template !== round.template && letter.data.template
                    ? ` · with “${letter.data.template}”`
                    : ""}
                </p>
                <span className="ml-auto">
                  <Tabs
                    label="Proof on"
                    choices={[
                      ["desktop", "Desktop"],
                      ["phone", "Phone"],
                      ["text", "Text"],
                    ]}
                    value={view}
                    onChange={setView}
                  />
                </span>
              </div>
              <ProblemText error={letter.error ?? rows.error} />
              {person !== 0 && letter.isPending && <Loading />}
              {letter.data?.mail ? (
                <MailSheet outside mail={letter.data.mail} narrow={view === "phone"} plain={view === "text"} />
              ) : (
                letter.data && (
                  <p className="border border-rule bg-sheet px-6 py-10 text-ink-soft">
                    {letter.data.why || "There is no letter to show."}
                  </p>
                )
              )}
              {rows.first && rows.total === 0 && (
                <p className="border border-rule bg-sheet px-6 py-10 text-ink-soft">
                  Nobody stands here.{" "}
                  <button
                    type="button"
                    className="text-main underline"
                    onClick={() => shown.set({ group: "", reason: "", missing: "", q: "", person: "" })}
                  >
                    Show everybody
                  </button>
                </p>
              )}
            </div>
            {letter.data && (
              <MemberMargin
                key={person}
                round={round}
                letter={letter.data}
                act={act}
                onGood={() => void good()}
                onAside={() => void aside()}
                onChange={() => void change()}
              />
            )}
          </div>
        </div>
      </div>
    </div>
  );
}

type Spot = { person: number /** -1 while it is not known. */; at: number };

/** Whose letter is on the screen, and where they stand in the list: the first, or whom the address names. */
function useSpot(id: number, shown: Shown, rows: ReturnType<typeof useMembers>) {
  const { group, reason, missing, q, hardest } = shown;
  const [spot, setSpot] = useState<Spot>({ person: shown.person, at: shown.person ? -1 : 0 });
  const list = JSON.stringify([group, reason, missing, q, hardest]);
  const [was, setWas] = useState(list);
  if (was !== list) {
    // Another list begins with its first.
    setWas(list);
    setSpot({ person: 0, at: 0 });
  }
  const place = $api.useQuery(
    "get",
    "/api/rounds/{id}/people/{person}/place",
    { params: { path: { id, person: spot.person }, query: { group, reason, missing, q, hardest } } },
    { enabled: spot.at < 0, staleTime: 0, gcTime: 0 },
  ).data?.at;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the list is scrolled once for each place
  useEffect(() => {
    if (spot.at >= 0 || place === undefined) return;
    const at = Math.max(0, place);
    setSpot({ person: spot.person, at });
    rows.virtual.scrollToIndex(at);
  }, [place]);
  const here = Math.max(0, Math.min(spot.at, rows.total - 1));
  // Whoever was asked for stays on the screen also when they stand elsewhere in the list by now.
  return { person: spot.person || (rows.rowAt(0)?.personId ?? 0), here, setSpot };
}

/** Does something with people of a round, and tells whether it was done. */
function useDone(round: Round, act: Acting) {
  return (people: number[], what: "good" | "not good" | "aside" | "back", sum?: string) =>
    act(
      api.POST("/api/rounds/{id}/do", {
        params: { path: { id: round.id } },
        body: { act: what, people, ...(sum && { sum }) },
      }),
    );
}
