import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { momentOf } from "../../components/time";
import { GapNote } from "../desk/GapNote";
import { markWords } from "./MemberList";
import { TemplateChoice } from "./TemplateChoice";
import type { Acting } from "./useRound";
import type { Member, Round } from "./words";

type Props = {
  round: Round;
  letter: Schemas["ShownOut"];
  act: Acting;
  onGood: () => void;
  onAside: () => void;
  onChange: () => void;
};

const box = "border-l-3 py-1 pl-3";

/** What is to say about one letter of a round, and what can be done with it. */
export function MemberMargin({ round, letter, act, onGood, onAside, onChange }: Props) {
  const { person: m } = letter;
  const over = round.state === "done" || round.state === "stopped";
  const done = !["not checked", "ready", "gap", "changed", "set aside", "skipped"].includes(m.state);
  const open = !over && !done;
  return (
    <aside aria-label="About this letter" className="flex flex-col gap-4">
      <Standing member={m} />
      {open && <Reasons round={round} member={m} act={act} />}
      {letter.stops.map((words) => (
        <p key={words} className={`${box} border-stop text-sm`}>
          {words}
        </p>
      ))}
      {open && m.state !== "set aside" && <Gaps round={round} letter={letter} act={act} />}
      {letter.suggestions.map((s) => (
        <p key={s.path} className={`${box} border-advice text-sm`}>
          {s.better ? (
            <>
              The record says “{s.value}”. Did you mean “{s.better}”?{" "}
              <button
                type="button"
                className="text-main underline"
                onClick={() =>
                  void act(
                    api.POST("/api/rounds/{id}/records", {
                      params: { path: { id: round.id } },
                      body: { people: [m.personId], path: s.path, value: s.better },
                    }),
                    `The record says “${s.better}” now.`,
                  )
                }
              >
                Correct the record
              </button>
            </>
          ) : (
            <>The record says “{s.value}”, which counts as missing.</>
          )}
        </p>
      ))}
      <Differs stretches={letter.differs} />
      {open && (
        <div className="flex flex-wrap gap-2 border-t border-rule pt-3">
          {m.state !== "set aside" && ["ready", "changed"].includes(m.state) && (
            <Button look={m.proofread ? "plain" : "main"} onClick={onGood} title="Enter">
              {m.proofread ? "Next" : "Good, next"}
            </Button>
          )}
          {letter.mail && m.state !== "set aside" && (
            <Button onClick={onChange} title="e">
              {m.letterId ? "Change it again" : "Change"}
            </Button>
          )}
          <Button onClick={onAside} title="h">
            {m.state === "set aside" ? "Put back in" : "Hold back"}
          </Button>
          {m.letterId ? (
            <Button
              look="quiet"
              className="px-1!"
              onClick={() =>
                void act(
                  api.DELETE("/api/rounds/{id}/people/{person}/letter", {
                    params: { path: { id: round.id, person: m.personId } },
                  }),
                  "The round’s wording again.",
                )
              }
            >
              Use the round’s wording again
            </Button>
          ) : (
            m.state !== "set aside" && <TemplateChoice round={round} person={m.personId} act={act} />
          )}
        </div>
      )}
    </aside>
  );
}

function Standing({ member: m }: { member: Member }) {
  const bad = m.state === "gap" || m.state === "refused";
  return (
    <div className={`${box} ${bad ? "border-stop" : m.state === "skipped" ? "border-advice" : "border-rule-strong"}`}>
      <p className="font-semibold">{markWords(m).replace(/^./, (c) => c.toUpperCase())}</p>
      {m.why && <p className="text-sm">{m.why}.</p>}
      {m.stale && <p className="text-sm text-advice">It says something else since you marked it good.</p>}
      {m.sentAt && <p className="text-sm text-ink-soft">{momentOf(m.sentAt)}</p>}
      {!m.sentAt && m.goAt && <p className="text-sm text-ink-soft">Goes {momentOf(m.goAt)}</p>}
    </div>
  );
}

/** The fixes at hand for what somebody is skipped for. */
function Reasons({ round, member: m, act }: { round: Round; member: Member; act: Acting }) {
  const path = { params: { path: { id: round.id } } };
  const body = (act_: Schemas["DoInRoundRequest"]["act"], reason?: string) => ({
    act: act_,
    people: [m.personId],
    ...(reason && { reason }),
  });
  if (m.state !== "skipped") return null;
  return (
    <ul className="flex flex-col gap-1 text-sm">
      {m.codes.map((code) => (
        <li key={code}>
          {round.reasons.find((r) => r.code === code)?.overruled && code !== "nobasis" && (
            <Button onClick={() => void act(api.POST("/api/rounds/{id}/do", { ...path, body: body("allow", code) }))}>
              Write all the same
            </Button>
          )}
          {code === "twin" && (
            <Button onClick={() => void act(api.POST("/api/rounds/{id}/do", { ...path, body: body("take") }))}>
              Take {m.name}
            </Button>
          )}
          {code === "deleted" && m.why.startsWith("The record was merged") && (
            <Button onClick={() => void act(api.POST("/api/rounds/{id}/do", { ...path, body: body("instead") }))}>
              Write to that record instead
            </Button>
          )}
          {code === "bounced" && (
            <Button
              onClick={() =>
                void act(
                  api.POST("/api/people/{id}/address-works", { params: { path: { id: m.personId } } }).then((a) => {
                    if (a.error) return a;
                    return api.POST("/api/rounds/{id}/do", { ...path, body: body("check") });
                  }),
                  "Letters will be sent there again.",
                )
              }
            >
              The address works again
            </Button>
          )}
          {(code === "noaddress" || code === "badaddress") && <AddressFix round={round} member={m} act={act} />}
          {code === "nobasis" && <p className="text-ink-soft">Set the basis above, for one or for all.</p>}
        </li>
      ))}
    </ul>
  );
}

/** Puts an address onto the record. */
function AddressFix({ round, member: m, act }: { round: Round; member: Member; act: Acting }) {
  const [email, setEmail] = useState(m.email);
  const save = async () => {
    if (!email.trim() || email === m.email) return;
    await act(
      api
        .PATCH("/api/people/{id}", {
          params: { path: { id: m.personId } },
          body: { was: { "person.email": m.email }, set: { "person.email": email.trim() } },
        })
        .then((a) => {
          if (a.error) return a;
          return api.GET("/api/rounds/{id}", { params: { path: { id: round.id } } });
        }),
      "The record has the address now.",
    );
  };
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <label className="min-w-0 flex-1 text-sm text-ink-soft">
        Email address
        <input
          type="email"
          value={email}
          onChange={(e) => setEmail(e.target.value)}
          className="block w-full border-b border-main bg-transparent text-ink outline-none"
        />
      </label>
      <Button type="submit">Save on the record</Button>
    </form>
  );
}

function Gaps({ round, letter, act }: { round: Round; letter: Schemas["ShownOut"]; act: Acting }) {
  const [busy, setBusy] = useState("");
  const { person: m } = letter;
  const filled = Object.entries(letter.fills ?? {});
  const fill = async (path: string, value: string, record: boolean) => {
    setBusy(path);
    await act(
      record
        ? api.POST("/api/rounds/{id}/records", {
            params: { path: { id: round.id } },
            body: { people: [m.personId], path, value },
          })
        : api.POST("/api/rounds/{id}/people/{person}/fill", {
            params: { path: { id: round.id, person: m.personId } },
            body: { path, value },
          }),
    );
    setBusy("");
  };
  return (
    <>
      {letter.gaps.map((gap) =>
        m.letterId ? (
          <p key={gap.path} className={`${box} border-stop text-sm`}>
            <b>{gap.label}</b> is missing. Fill it at the desk.
          </p>
        ) : (
          <div key={gap.path} className={`${box} ${gap.kind ? "border-advice" : "border-stop"}`}>
            <GapNote
              gap={gap}
              toRecord={gap.record}
              busy={busy === gap.path}
              problem=""
              doubt={undefined}
              onRight={() => {}}
              onFill={(value, also) => void fill(gap.path, value, also)}
            />
          </div>
        ),
      )}
      {filled.length > 0 && !m.letterId && (
        <ul className="text-sm text-ink-soft">
          {filled.map(([path, value]) => (
            <li key={path}>
              In this letter alone: “{value}”{" "}
              <button type="button" className="text-main underline" onClick={() => void fill(path, "", false)}>
                Take it back
              </button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** What differs from the letter before: the words that stand there, and those that stood in their place. */
function Differs({ stretches }: { stretches: Schemas["Stretch"][] }) {
  if (stretches.length === 0) return null;
  const pairs: { was: string; now: string }[] = [];
  for (const s of stretches) {
    const words = s.text.trim();
    if (s.kind === "same" || !words) continue;
    const last = pairs.at(-1);
    if (s.kind === "removed") pairs.push({ was: words, now: "" });
    else if (last && !last.now) last.now = words;
    else pairs.push({ was: "", now: words });
  }
  if (pairs.length === 0) return null;
  return (
    <section aria-label="Differs from the letter before" className={`${box} border-rule-strong text-sm`}>
      <h3 className="text-ink-soft">Differs from the letter before</h3>
      <ul>
        {pairs.slice(0, 12).map((p, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: they stand in the order of the letter
          <li key={i} className="break-words">
            {p.now && <ins className="font-semibold no-underline">{clip(p.now)}</ins>}
            {p.was && (
              <>
                {" "}
                <del className="text-ink-soft">{clip(p.was)}</del>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

const clip = (s: string) => (s.length > 90 ? `${s.slice(0, 90)} …` : s);
