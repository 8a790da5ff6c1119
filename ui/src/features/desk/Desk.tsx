import { useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { useCallback, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useCtrlKey } from "../../app/keys";
import { Margin, type MarginNote } from "../../components/Margin";
import { PageFrame } from "../../components/PageFrame";
import { selectedNote } from "../../editor/SelectedNote";
import { letterExtensions, subjectExtensions } from "../../editor/schema";
import { isFixed, useSelected } from "../../editor/selected";
import { show } from "../../editor/show";
import { Dispatch } from "./Dispatch";
import { FactsStrip } from "./FactsStrip";
import { FormattedWords } from "./FormattedWords";
import { GapNote } from "./GapNote";
import { NameNote } from "./NameNote";
import { Proof } from "./Proof";
import { type Letter, useDraft } from "./useDraft";
import { Words } from "./Words";

/** Fields that are kept on the person, so that a value can be written back. */
const ofPerson = /^(person|lead|contact)\./;

/** The writing desk: the addressee's facts, the letter, the margin, and the strip that sends it. */
export function Desk({ first }: { first: Letter }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const draft = useDraft(first);
  const { letter, change, flush, replace, version, byServer } = draft;
  const sheet = useRef<HTMLDivElement>(null);
  const subject = useRef<Editor>(null);
  const body = useRef<Editor>(null);
  const [filling, setFilling] = useState<{ path: string; problem: string } | null>(null);
  const [formatted, setFormatted] = useState<Editor | null>(null);
  const selected = useSelected(formatted);
  const [proof, setProof] = useState(false);
  const [sending, setSending] = useState(false);

  const showLetter = useCallback((l: Letter) => {
    show(subject.current, l.subjectDoc);
    show(body.current, l.body);
  }, []);

  const toNote = useCallback((path: string) => {
    document.querySelector<HTMLElement>(`[data-gap-note="${CSS.escape(path)}"] :is(input, select)`)?.focus();
  }, []);

  const fill = useCallback(
    async (path: string, value: string, alsoRecord: boolean) => {
      setFilling({ path, problem: "" });
      let problem = "";
      const l = await byServer(async (wording, again) => {
        const { data, error } = await api
          .POST("/api/letters/{id}/fill", {
            params: { path: { id: first.id } },
            body: { ...wording, path, value, alsoRecord: alsoRecord && !again },
          })
          .catch(noAnswer);
        if (error) problem = wordsOf(error);
        return data;
      });
      setFilling(problem ? { path, problem } : null);
      if (!l) return;
      showLetter(l);
      if (subject.current?.isFocused || body.current?.isFocused) return; // the writer went on writing
      const next = l.gaps[0];
      if (next) toNote(next.path);
      else body.current?.commands.focus("end");
    },
    [first.id, byServer, showLetter, toNote],
  );

  /** Answers a doubt about a value: it is right as it stands, or the better name goes in. */
  const answer = useCallback(
    async ({ path, better }: Schemas["Doubt"], alsoRecord: boolean) => {
      const params = { path: { id: first.id } };
      const l = await byServer(async (wording, again) => {
        const { data, error } = await (better
          ? api.POST("/api/letters/{id}/correct", {
              params,
              body: { ...wording, path, value: better, alsoRecord: alsoRecord && !again },
            })
          : api.POST("/api/letters/{id}/right", { params, body: { ...wording, path } })
        ).catch(noAnswer);
        if (error) toast.error(wordsOf(error));
        return data;
      });
      if (l) showLetter(l);
    },
    [first.id, byServer, showLetter],
  );

  const send = useCallback(async () => {
    setSending(true);
    const saved = await flush();
    const answer = saved
      ? await api.POST("/api/letters/{id}/send", {
          params: { path: { id: first.id } },
          body: { version: version(), to: letter.toEmail },
        })
      : null;
    setSending(false);
    if (!answer) return;
    if (answer.error) return void toast.error(wordsOf(answer.error));
    toast.success(`On its way to ${letter.person}`);
    await queries.invalidateQueries();
    go(`/people/${letter.personId}?letter=${letter.id}`);
  }, [first.id, flush, go, letter, queries, version]);

  const throwAway = async () => {
    const { error } = await api.DELETE("/api/letters/{id}", { params: { path: { id: first.id } } });
    if (error) return void toast.error(wordsOf(error));
    go(`/people/${letter.personId}`);
  };

  const loadTheirs = async () => {
    const { data } = await api.GET("/api/letters/{id}", { params: { path: { id: first.id } } });
    if (!data) return;
    replace(data);
    showLetter(data);
  };

  const stopped = letter.stops.length > 0;
  useCtrlKey("Enter", () => {
    if (!stopped && !sending) void send();
  });

  const notes = useMemo(
    () => [
      ...(formatted && selected.length > 0 && !isFixed(formatted) ? [selectedNote(formatted, selected, [])] : []),
      ...notesOf(letter, sheet, filling, fill, answer),
    ],
    [formatted, selected, letter, filling, fill, answer],
  );
  const onSubject = useCallback((e: Editor) => {
    subject.current = e;
  }, []);
  const onBody = useCallback(
    (e: Editor) => {
      body.current = e;
      if (first.body.attrs.body === "formatted") setFormatted(e);
    },
    [first.body.attrs.body],
  );

  return (
    <div className="flex min-h-full flex-col">
      <FactsStrip letter={letter} />
      {draft.saving.status === "stale" && <Stale onMine={draft.keepMine} onTheirs={loadTheirs} />}
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div
          ref={sheet}
          className={`min-h-[24rem] border border-rule bg-sheet px-5 py-6 sm:px-12 sm:py-9 ${["formatted", "html"].includes(first.body.attrs.body ?? "") ? "paper" : ""}`}
        >
          <Words
            label="Subject"
            extensions={subjectExtensions}
            first={first.subjectDoc}
            multiline={false}
            className="mb-5 border-b border-rule pb-2 text-[1.35rem]! font-semibold"
            onReady={onSubject}
            onChange={(doc) => change("subject", doc)}
            onGap={toNote}
            onEnter={() => body.current?.commands.focus("start")}
          />
          {first.body.attrs.body === "html" ? (
            <PageFrame html={letter.page ?? ""} title="The letter" />
          ) : first.body.attrs.body === "formatted" ? (
            <FormattedWords
              first={first.body}
              onReady={onBody}
              onChange={(doc) => change("body", doc)}
              onGap={toNote}
            />
          ) : (
            <Words
              label="Letter"
              extensions={letterExtensions}
              first={first.body}
              onReady={onBody}
              onChange={(doc) => change("body", doc)}
              onGap={toNote}
            />
          )}
        </div>
        <Margin label="Margin notes" notes={notes} sheet={sheet} tick={letter} />
      </div>
      <Dispatch
        letter={letter}
        saving={draft.saving}
        sending={sending}
        onSend={send}
        onProof={() => flush().then((ok) => ok && setProof(true))}
        onThrowAway={throwAway}
      />
      {proof && <Proof letter={letter} onSend={send} onClose={() => setProof(false)} />}
    </div>
  );
}

/** The line of the subject or the letter that a note is about, as it stands on the sheet. */
function lineOf(sheet: HTMLElement | null, part: string, line: number): Element | undefined {
  const box = sheet?.querySelector(part === "subject" ? "[aria-label=Subject]" : "[aria-label=Letter]");
  return box?.children[line - 1] ?? box?.children[0];
}

function notesOf(
  letter: Letter,
  sheet: React.RefObject<HTMLElement | null>,
  filling: { path: string; problem: string } | null,
  fill: (path: string, value: string, alsoRecord: boolean) => void,
  answer: (doubt: Schemas["Doubt"], alsoRecord: boolean) => void,
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
          toRecord={ofPerson.test(gap.path) && gap.path !== "person.full_name"}
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
    .filter((n) => n.code !== "gap")
    .map(
      (n: Schemas["Note"]): MarginNote => ({
        key: `${n.code} ${n.part} ${n.line} ${n.text}`,
        tone: "stop",
        anchor: () => lineOf(sheet.current, n.part, n.line)?.getBoundingClientRect() ?? null,
        content: <p className="text-sm">{n.message}</p>,
      }),
    );
  const names = letter.doubts
    .filter((d) => d.better)
    .map(
      (d): MarginNote => ({
        key: `name ${d.path}`,
        tone: "advice",
        anchor: () =>
          sheet.current?.querySelector(`[data-merged="${CSS.escape(d.path)}"]`)?.getBoundingClientRect() ?? null,
        content: <NameNote doubt={d} onTake={(also) => answer(d, also)} />,
      }),
    );
  if (gaps.length + others.length > 0) return [...others, ...gaps, ...names];
  return [
    ...names,
    {
      key: "ready",
      tone: "quiet",
      anchor: () => null,
      content: <p className="text-sm">Nothing is missing. It can go.</p>,
    },
  ];
}

function Stale({ onMine, onTheirs }: { onMine: () => void; onTheirs: () => void }) {
  return (
    <div role="alert" className="flex flex-wrap items-center gap-4 border-b border-stop bg-stop-soft px-6 py-2">
      <p>This letter was changed in another window. Nothing was overwritten; your words are still here.</p>
      <button type="button" className="text-main underline" onClick={onMine}>
        Keep the words of this window
      </button>
      <button type="button" className="text-main underline" onClick={onTheirs}>
        Take the other window’s
      </button>
    </div>
  );
}
