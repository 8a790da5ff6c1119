import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import type { MarginNote } from "../../components/Margin";
import { plural } from "../../components/plural";
import { GapNote } from "./GapNote";
import { EditedNote, NameNote } from "./NameNote";
import { RecordNewsNote } from "./RecordNewsNote";
import type { Letter } from "./useDraft";

/** The address that a letter goes to, where the record has none. */
const address: Schemas["Gap"] = {
  path: "person.email",
  label: "Email address",
  type: "email",
  kind: "",
  hint: "",
  part: "body",
  count: 1,
  choices: [],
  record: true,
};

/** The line of the subject or the letter that a note is about, as it stands on the sheet. */
function lineOf(sheet: HTMLElement | null, part: string, line: number): DOMRect | null {
  const box = sheet?.querySelector(part === "subject" ? "[aria-label=Subject]" : "[aria-label=Letter]");
  const words = box?.children[line - 1] ?? box?.children[0];
  if (!words) return null;
  // A long one is pointed at where it begins.
  const { x, y, width, height } = words.getBoundingClientRect();
  return new DOMRect(x, y, width, Math.min(height, Number.parseFloat(getComputedStyle(words).lineHeight) || height));
}

/** What can be done about a note besides filling it. */
type Steps = {
  onOut: (piece: number) => void;
  onSwap: (piece: number) => void;
  onAskNoMore: (question: number) => void;
  onWriteBack: (path: string) => void;
  onUnlink: (href: string) => void;
  onLeaveSo: (part: string, line: number) => void;
  onNews: (take: boolean) => void;
};

/** What is to say about a letter: what stops it, its gaps, its names, advice, and its figures. */
export function notesOf(
  letter: Letter,
  sheet: React.RefObject<HTMLElement | null>,
  filling: { path: string; problem: string } | null,
  fill: (path: string, value: string, alsoRecord: boolean) => void,
  answer: (doubt: Schemas["Suggestion"], alsoRecord: boolean) => void,
  waved: string[],
  wave: (code: string) => void,
  steps: Steps,
): MarginNote[] {
  const rect = (path: string) =>
    sheet.current?.querySelector(`[data-gap="${CSS.escape(path)}"]`)?.getBoundingClientRect() ?? null;
  const gaps = letter.gaps.map(
    (gap): MarginNote => ({
      key: `gap ${gap.path}`,
      tone: gap.kind ? "advice" : "stop",
      anchor: () => rect(gap.path),
      content: (
        <GapNote
          gap={gap}
          toRecord={gap.record}
          busy={filling?.path === gap.path && !filling.problem}
          problem={filling?.path === gap.path ? filling.problem : ""}
          doubt={letter.doubts.find((d) => d.path === gap.path && !d.better)}
          onRight={(d) => answer(d, false)}
          onFill={(value, also) => fill(gap.path, value, also)}
        />
      ),
    }),
  );
  const others = letter.stops
    .filter(
      (n) =>
        n.code !== "gap" &&
        n.code !== "recordnews" &&
        n.code !== "kept" &&
        !(n.code === "noaddress" && letter.gaps.some((g) => g.path === address.path)),
    )
    .map(
      (n: Schemas["Note"]): MarginNote => ({
        key: `${n.code} ${n.part} ${n.line} ${n.text}`,
        tone: "stop",
        anchor: () => lineOf(sheet.current, n.part, n.line),
        content:
          n.code === "noaddress" ? (
            <GapNote
              gap={address}
              toRecord
              busy={filling?.path === address.path && !filling.problem}
              problem={filling?.path === address.path ? filling.problem : ""}
              doubt={undefined}
              onRight={() => {}}
              onFill={(value, also) => fill(address.path, value, also)}
            />
          ) : (
            <p className="text-sm">
              {n.message}
              {n.code === "address" && letter.body.attrs.body === "formatted" && (
                <button type="button" className="ml-2 text-main underline" onClick={() => steps.onUnlink(n.text)}>
                  Remove the link
                </button>
              )}
              {n.code === "broken" && letter.body.attrs.body !== "html" && (
                <button
                  type="button"
                  className="mt-0.5 block text-main underline"
                  onClick={() => steps.onLeaveSo(n.part, n.line)}
                >
                  It reads well
                </button>
              )}
            </p>
          ),
      }),
    );
  const names = letter.doubts
    .filter((d) => d.better && !waved.includes(waveOf(d)))
    .map(
      (d): MarginNote => ({
        key: `name ${d.path}`,
        tone: "advice",
        anchor: () =>
          sheet.current?.querySelector(`[data-merged="${CSS.escape(d.path)}"]`)?.getBoundingClientRect() ?? null,
        content: d.edited ? (
          <EditedNote doubt={d} onRecord={() => steps.onWriteBack(d.path)} onHere={() => wave(waveOf(d))} />
        ) : (
          <NameNote doubt={d} onTake={(also) => answer(d, also)} />
        ),
      }),
    );
  const advice = letter.advice.notes
    .filter((n) => !n.praise && !waved.includes(n.code))
    .map(
      (n): MarginNote => ({
        key: `advice ${n.code} ${n.part}`,
        tone: "advice",
        anchor: () => (n.line ? lineOf(sheet.current, n.part, n.line) : null),
        content: <AdviceNote advice={n} onWave={() => wave(n.code)} />,
      }),
    );
  const figures: MarginNote = {
    key: "figures",
    tone: "quiet",
    anchor: () => null,
    content: (
      <Figures
        letter={letter}
        done={gaps.length + others.length + letter.recordNews.length + letter.kept.length === 0}
        {...steps}
      />
    ),
  };
  const strangers: MarginNote[] = letter.strangers.length
    ? [
        {
          key: "strangers",
          tone: "advice",
          anchor: () => null,
          content: (
            <p className="text-sm">
              {letter.strangers.join(", ")} {letter.strangers.length === 1 ? "gets" : "get"} this letter too and{" "}
              {letter.strangers.length === 1 ? "is" : "are"} not in your records. Remove anybody who shouldn’t read it
              under Copies.
            </p>
          ),
        },
      ]
    : [];
  const news: MarginNote[] = letter.templateNews
    ? [
        {
          key: "news",
          tone: "advice",
          anchor: () => null,
          content: (
            <p className="text-sm">
              The template <b className="font-serif">{letter.template}</b> {letter.templateNews} since you began. Your
              letter hasn’t changed.{" "}
              {letter.templateNews.startsWith("was changed") && (
                <Link to={`/templates/${letter.templateId}?view=versions`} className="text-main underline">
                  See what changed
                </Link>
              )}
            </p>
          ),
        },
      ]
    : [];
  const recordNews: MarginNote[] = letter.recordNews.length
    ? [
        {
          key: "record news",
          tone: "stop",
          anchor: () => null,
          content: <RecordNewsNote letter={letter} onSettle={steps.onNews} />,
        },
      ]
    : [];
  return [figures, ...recordNews, ...strangers, ...news, ...others, ...gaps, ...names, ...advice];
}

/** What was said to a doubt: an edited value is left as it is whatever it is made further. */
const waveOf = (d: Schemas["Suggestion"]) => (d.edited ? `edited ${d.path}` : `${d.path} ${d.better}`);

/** What stayed when the letter was given to somebody else, and may speak of the one before. */
export function keptNote(kept: Schemas["KeptWords"][], onKnown: () => void): MarginNote[] {
  if (kept.length === 0) return [];
  return [
    {
      key: "kept",
      tone: "stop",
      anchor: () => null,
      content: (
        <div className="text-sm">
          <p>This was written for somebody else, or for other values. Does it still fit?</p>
          <ul className="my-1">
            {kept.map((k) => (
              <li key={`${k.label} ${k.words}`}>
                <b className="font-serif">{k.words}</b> <span className="text-ink-soft">({k.label})</span>
              </li>
            ))}
          </ul>
          <button type="button" className="text-main hover:underline" onClick={onKnown}>
            Yes, it fits
          </button>
        </div>
      ),
    },
  ];
}

function AdviceNote({ advice, onWave }: { advice: Schemas["Advice"]; onWave: () => void }) {
  const [why, setWhy] = useState(false);
  return (
    <div className="text-sm">
      <p>{advice.message}</p>
      {why && (
        <p className="text-ink-soft">
          {advice.reason} ({advice.source})
        </p>
      )}
      <p className="flex gap-3">
        <button
          type="button"
          aria-expanded={why}
          className="text-main hover:underline"
          onClick={() => setWhy((on) => !on)}
        >
          Why<span className="sr-only">: {advice.message}</span>
        </button>
        <button type="button" className="text-main hover:underline" onClick={onWave}>
          Dismiss<span className="sr-only">: {advice.message}</span>
        </button>
      </p>
    </div>
  );
}

function Figures({
  letter,
  done,
  onOut,
  onSwap,
  onAskNoMore,
}: {
  letter: Letter;
  done: boolean;
} & Pick<Steps, "onOut" | "onSwap" | "onAskNoMore">) {
  const { words, seconds, ease, easeWords, notes } = letter.advice;
  const praise = notes.filter((n) => n.praise);
  const time = seconds < 60 ? plural(seconds, "second") : `${Math.round(seconds / 60)} min`;
  return (
    <div className="text-sm">
      {done && <p>Nothing is missing. Ready to send.</p>}
      <p>
        {plural(words, "word")}, {time} to read
        {ease !== undefined && (
          <>
            ; <abbr title={`Flesch Reading Ease ${Math.round(ease)} of 100`}>{easeWords}</abbr>
          </>
        )}
      </p>
      {letter.pieces.map((name, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: one template can be put in twice
        <p key={i} className="mt-1">
          Inserted: <b className="font-serif">{name}</b>{" "}
          <button type="button" className="text-main hover:underline" onClick={() => onOut(i)}>
            Remove<span className="sr-only"> {name}</span>
          </button>
          {" · "}
          <button type="button" className="text-main hover:underline" onClick={() => onSwap(i)}>
            Replace<span className="sr-only"> {name}</span>
          </button>
        </p>
      ))}
      {letter.asked.map((q) => {
        const name = q.sheet.title || q.sheet.questions[0]?.text;
        return (
          <p key={q.id} className="mt-1">
            Asks: <b className="font-serif">{name}</b>{" "}
            <button type="button" className="text-main hover:underline" onClick={() => onAskNoMore(q.id)}>
              Remove<span className="sr-only"> the question {name}</span>
            </button>
          </p>
        );
      })}
      {praise.map((n) => (
        <p key={n.code}>{n.message}</p>
      ))}
    </div>
  );
}
