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
import type { Acting, InOrder } from "./useRound";
import type { Round } from "./words";

type View = "desktop" | "phone" | "text";

/** The letters of a round one by one: people at the left, the letter in the middle, what is to say at the right. */
export function CheckStep({
  round,
  shown,
  act,
  inOrder,
}: {
  round: Round;
  shown: Shown;
  act: Acting;
  inOrder: InOrder;
}) {
  const go = useNavigate();
  const queries = useQueryClient();
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useMembers(round.id, shown, scroller);
  const [before, setBefore] = useState(0);
  const [view, setView] = useState<View>("desktop");
  const [list, setList] = useState(false); // on a phone
  const { person, here, setSpot, place } = useSpot(round.id, shown, rows);
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
  /** Goes to the letter so many places on, also when that place, or who stands there, is still on its way. */
  const step = async (by: number): Promise<boolean> => {
    const to = (await place()) + by;
    if (to < 0 || to >= rows.total) return false;
    const row = rows.rowAt(to) ?? (await memberAt(round.id, shown, to));
    if (row) show(row.personId, to);
    return row !== undefined;
  };
  const done = useDone(round, act);
  const seen = letter.data?.person.personId === person ? letter.data.person : undefined;
  // What is pressed while something before it is under way is done after it, on the letter that was seen, as it is then.
  const turn = useRef<Promise<unknown>>(Promise.resolve());
  const inTurn = (does: (now: NonNullable<typeof seen>) => Promise<void>) => {
    if (!seen) return;
    turn.current = turn.current.catch(noAnswer).then(async () => {
      const now = await queries.fetchQuery({ ...letterAt(person, before), staleTime: 2_000 }).catch(() => undefined);
      await does(now?.person ?? seen);
    });
  };
  const good = async (m: NonNullable<typeof seen>) => {
    if (m.state === "gap") {
      document
        .querySelector<HTMLElement>("[data-gap-note] input, [data-gap-note] textarea, [data-gap-note] select")
        ?.focus();
      return;
    }
    if (["ready", "changed"].includes(m.state) && !m.proofread && !(await done([person], "good", seen?.sum))) return;
    // In a list of those that are left the next one takes this place.
    if (shown.group === "open") {
      setBefore(person);
      const spot = await place();
      const after = rows.rowAt(spot + 1) ?? (await memberAt(round.id, shown, spot));
      setSpot({ person: after?.personId ?? 0, at: after ? spot : 0 });
      shown.set({ person: after ? String(after.personId) : "" });
      if (!after) toast.success("That was the last one.");
    } else if (!(await step(1))) toast.success("That was the last one.");
  };
  const aside = async (m: NonNullable<typeof seen>) => {
    if (await done([person], m.state === "set aside" ? "back" : "aside")) await step(1);
  };
  const change = async () => {
    if (!seen || !letter.data?.mail) return;
    const { data, error } = await api
      .POST("/api/rounds/{id}/people/{person}/letter", { params: { path: { id: round.id, person } } })
      .catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    go(`/letters/${data.id}`);
  };
  const search = () => scroller.current?.querySelector<HTMLInputElement>("input[type=search]")?.focus();
  useKeys({
    j: () => void step(1),
    k: () => void step(-1),
    ArrowDown: () => void step(1),
    ArrowUp: () => void step(-1),
    // A key that is held down marks one letter, not all of them.
    Enter: (event) => !event.repeat && inTurn(good),
    e: () => void change(),
    h: (event) => !event.repeat && inTurn(aside),
    "/": search,
  });

  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <Settle round={round} shown={shown} act={act} inOrder={inOrder} />
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
                onGood={() => inTurn(good)}
                onAside={() => inTurn(aside)}
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
  const ask = async () => {
    const { data } = await api
      .GET("/api/rounds/{id}/people/{person}/place", {
        params: { path: { id, person: spot.person }, query: { group, reason, missing, q, hardest } },
      })
      .catch(noAnswer);
    return Math.max(0, data?.at ?? 0);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is asked once for each person whose place is not known
  useEffect(() => {
    if (spot.at >= 0) return;
    let current = true;
    void ask().then((at) => {
      if (!current) return;
      setSpot({ person: spot.person, at });
      rows.virtual.scrollToIndex(at);
    });
    return () => {
      current = false;
    };
  }, [spot.person, spot.at]);
  const here = Math.max(0, Math.min(spot.at, rows.total - 1));
  // Whoever was asked for stays on the screen also when they stand elsewhere in the list by now.
  const person = spot.person || (rows.rowAt(0)?.personId ?? 0);
  return { person, here, setSpot, place: async () => (spot.at >= 0 ? here : ask()) };
}

/** Who stands at a place of a list that is not in sight. */
async function memberAt(id: number, shown: Shown, offset: number) {
  const { group, reason, missing, q, hardest } = shown;
  const { data } = await api
    .GET("/api/rounds/{id}/people", {
      params: { path: { id }, query: { group, reason, missing, q, hardest, offset, limit: 1 } },
    })
    .catch(noAnswer);
  return data?.people[0];
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
