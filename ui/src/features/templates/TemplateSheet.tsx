import type { EditorView } from "@codemirror/view";
import { keepPreviousData, useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { Braces, Type } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, type Schemas, statusOf, wordsOf } from "../../api/client";
import { useCtrlKey } from "../../app/keys";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Margin } from "../../components/Margin";
import { Tabs } from "../../components/Tabs";
import { momentOf } from "../../components/time";
import { useSelected } from "../../editor/selected";
import { FieldList } from "./FieldList";
import { FormattedBody } from "./FormattedBody";
import { LanguageSelect } from "./LanguageSelect";
import { TextForm } from "./TextForm";
import { Trial } from "./Trial";
import { fixChip, toMargin } from "./templateMargin";
import { Versions } from "./Versions";
import { same, stored as toStore, typed, wordingOf } from "./wording";

type Template = Schemas["TemplateOut"];
type Note = Schemas["Note"];
type State = Template["state"];

const nobody: Schemas["FieldInfo"][] = [];

/** One template: its wording in the middle, what is to say about it in the margin. */
export function TemplateSheet({ first }: { first: Template }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [stored, setStored] = useState(first);
  const [text, setText] = useState(() => wordingOf(first));
  const [tags, setTags] = useState(() => first.tags.join(", "));
  const [notes, setNotes] = useState<Note[]>(first.notes);
  const [fits, setFits] = useState(first.fits);
  const [view, setView] = useState<"wording" | "trial" | "versions">("wording");
  const [settled, setSettled] = useState(() => typed(text));
  const [editor, setEditor] = useState<Editor | null>(null);
  const [sheetKey, setSheetKey] = useState(0); // another one when the body is loaded anew
  const selected = useSelected(editor);
  const place = useRef({ from: 0, to: 0, typed: false }); // of the cursor when the fields were asked for
  const [picking, setPicking] = useState(false);
  const [stale, setStale] = useState<Template | null>(null);
  const [busy, setBusy] = useState(false);
  const fields = $api.useQuery("get", "/api/fields").data ?? nobody;
  const sheet = useRef<HTMLDivElement>(null);
  const views = useRef<{ subject?: EditorView; body?: EditorView; last?: EditorView }>({});
  const changed = !same(text, wordingOf(stored));
  const stops = notes.filter((n) => n.severity === "stops").length;

  useEffect(() => {
    let current = true;
    const wording = typed(text);
    const timer = setTimeout(async () => {
      const { data } = await api.POST("/api/templates/check", { body: wording });
      if (!data || !current) return;
      setNotes(data.notes);
      setFits(data.fits);
      setSettled(wording);
    }, 150);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [text]);

  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => {
      if (changed) event.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [changed]);

  const store = async (state: State, version = stored.version) => {
    setBusy(true);
    const wordingToStore = toStore(text);
    const { data, error } = stored.id
      ? await api.PUT("/api/templates/{id}", {
          params: { path: { id: stored.id } },
          body: { ...wordingToStore, state, version },
        })
      : await api.POST("/api/templates", {
          body: { ...wordingToStore, state, ...(first.folderId ? { folderId: first.folderId } : {}) },
        });
    setBusy(false);
    if (error) {
      if (statusOf(error) !== 409) return void toast.error(wordsOf(error));
      const { data: theirs } = await api.GET("/api/templates/{id}", { params: { path: { id: stored.id } } });
      return setStale(theirs ?? null);
    }
    setStale(null);
    setStored(data);
    setText({ ...wordingOf(data), ...(text.doc ? { doc: text.doc } : {}) });
    queries.invalidateQueries({ queryKey: ["get", "/api/templates"] });
    toast.success(
      state === "ready"
        ? "Stored. It can be picked now."
        : state === "draft"
          ? "Stored as a draft."
          : "Withdrawn. Nobody can pick it any more.",
    );
    if (!stored.id) go(`/templates/${data.id}`, { replace: true });
  };
  useCtrlKey("Enter", () => {
    if (stored.mayEdit && !busy && changed) void store(stored.state);
  });

  const fix = useCallback(
    (n: Note, words: string) => {
      if (n.where && editor) return fixChip(editor, n, words);
      const view = n.part === "subject" ? views.current.subject : views.current.body;
      view?.dispatch({ changes: { from: n.from, to: n.to, insert: words } });
      view?.focus();
    },
    [editor],
  );
  /** Back to the formatted body, where the cursor was: at once, so that the next key goes there. */
  const resume = (content: object | null) => {
    flushSync(() => setPicking(false));
    if (!editor) return;
    const { from, to } = place.current;
    const chain = editor.chain().setTextSelection({ from, to });
    (content ? chain.insertContent(content) : chain).run();
    editor.view.focus();
  };
  const pick = (path: string) => {
    const view = views.current.last ?? views.current.body;
    if (editor && (!views.current.last || !view)) return resume({ type: "field", attrs: { path } });
    setPicking(false);
    if (!view) return;
    view.dispatch(view.state.replaceSelection(`{{${path}}}`));
    requestAnimationFrame(() => view.focus());
  };

  /** No field was picked: the brace that was typed stays. */
  const leaveFields = () => {
    if (!editor || views.current.last) return setPicking(false);
    resume(place.current.typed ? { type: "text", text: "{" } : null);
  };

  const reach = $api.useQuery(
    "post",
    "/api/templates/reach",
    { body: settled },
    { placeholderData: keepPreviousData },
  ).data;
  const marginNotes = useMemo(
    () => toMargin({ notes, views, editor, fix, fits, reach, selected: view === "wording" ? selected : [], fields }),
    [notes, editor, fix, fits, reach, selected, fields, view],
  );
  const bringBack = (old: Template) => {
    if (!old.doc) setEditor(null);
    setText(wordingOf(old));
    setSheetKey((k) => k + 1);
    setView("wording");
    toast.success(`The wording of version ${old.version} is back on the sheet. Store it to make it the newest.`);
  };
  const formatIt = async () => {
    const { data, error } = await api.POST("/api/templates/formatted", { body: { body: text.body } });
    if (!data) return void toast.error(wordsOf(error));
    setText({ ...text, kind: "formatted", doc: data });
    setSheetKey((k) => k + 1);
  };
  const subjectNotes = useMemo(() => notes.filter((n) => n.part === "subject" && n.severity === "stops"), [notes]);
  const bodyNotes = useMemo(() => notes.filter((n) => n.part === "body" && n.severity === "stops"), [notes]);

  return (
    <div className="flex min-h-full flex-col">
      {stale && (
        <div
          role="alert"
          className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-stop bg-stop-soft px-6 py-2"
        >
          <p>
            Somebody stored version {stale.version} of this template on {momentOf(stale.updatedAt)}, while you were
            writing. Nothing was overwritten.
          </p>
          <button type="button" className="text-main underline" onClick={() => store(stale.state, stale.version)}>
            Store mine over it
          </button>
          <button
            type="button"
            className="text-main underline"
            onClick={() => {
              setStored(stale);
              setText(wordingOf(stale));
              setSheetKey((k) => k + 1);
              setStale(null);
            }}
          >
            Take theirs
          </button>
        </div>
      )}
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div className="min-w-0">
          <div className="mb-4 grid gap-x-6 gap-y-2 sm:grid-cols-2">
            <Input
              label="Name (recipients never see it)"
              value={text.name}
              readOnly={!stored.mayEdit}
              onChange={(e) => setText({ ...text, name: e.target.value })}
              serif
            />
            <Input
              label="When to use"
              value={text.whenToUse}
              readOnly={!stored.mayEdit}
              onChange={(e) => setText({ ...text, whenToUse: e.target.value })}
            />
          </div>
          <div className="mb-2 flex flex-wrap items-center justify-between gap-x-6 gap-y-2">
            <Tabs
              label="Show"
              choices={[
                ["wording", "Wording"],
                ["trial", "Try on a person"],
                ...(stored.id ? [["versions", "Versions"] as ["versions", string]] : []),
              ]}
              value={view}
              onChange={setView}
            />
            <label className="flex min-w-0 items-baseline gap-2 text-sm">
              <span className="text-ink-soft">Tags</span>
              <input
                value={tags}
                readOnly={!stored.mayEdit}
                placeholder="first contact, florist"
                onChange={(e) => {
                  setTags(e.target.value);
                  setText({ ...text, tags: tagsOf(e.target.value) });
                }}
                className="w-44 border-b border-rule-strong bg-transparent py-0.5 outline-none focus:border-main"
              />
            </label>
            <LanguageSelect
              value={text.language}
              disabled={!stored.mayEdit}
              onChange={(v) => setText({ ...text, language: v })}
            />
          </div>
          <div ref={sheet} className="min-h-[24rem] border border-rule bg-sheet px-5 py-6 sm:px-12 sm:py-9">
            {view === "trial" && <Trial wording={settled} hardest={reach?.hardest} />}
            {view === "versions" && <Versions key={stored.version} template={stored} onBringBack={bringBack} />}
            <div hidden={view !== "wording"}>
              <TextForm
                label="Subject"
                hint="Subject"
                oneLine
                readOnly={!stored.mayEdit}
                text={text.subject}
                fields={fields}
                notes={subjectNotes}
                className="mb-5 border-b border-rule pb-2 text-[1.35rem] font-semibold"
                onChange={(s) => setText((t) => ({ ...t, subject: s }))}
                onReady={(v) => {
                  views.current.subject = v;
                }}
                onFocus={(v) => {
                  views.current.last = v;
                }}
              />
              {text.doc ? (
                <FormattedBody
                  key={sheetKey}
                  first={text.doc}
                  fields={fields}
                  readOnly={!stored.mayEdit}
                  onReady={setEditor}
                  onChange={(doc) => setText((t) => ({ ...t, doc }))}
                  onFocus={() => {
                    views.current.last = undefined;
                  }}
                  onBrace={(typed) => {
                    const at = editor?.state.selection;
                    place.current = { from: at?.from ?? 0, to: at?.to ?? 0, typed };
                    setPicking(true);
                  }}
                />
              ) : (
                <TextForm
                  label="Letter"
                  hint="The letter. { offers merge fields."
                  readOnly={!stored.mayEdit}
                  text={text.body}
                  fields={fields}
                  notes={bodyNotes}
                  className="text-[1.13rem]"
                  onChange={(s) => setText((t) => ({ ...t, body: s }))}
                  onReady={(v) => {
                    views.current.body = v;
                  }}
                  onFocus={(v) => {
                    views.current.last = v;
                  }}
                />
              )}
            </div>
          </div>
        </div>
        <Margin label="Margin notes" notes={marginNotes} sheet={sheet} tick={text} />
      </div>
      <section
        aria-label="Template"
        className="sticky bottom-0 z-20 flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
      >
        <p role="status" className="min-w-0 text-sm text-ink-soft">
          {standing(stored, changed)}
        </p>
        {stored.mayEdit && (
          <div className="ml-auto flex flex-wrap items-center gap-2">
            {view === "wording" && !text.doc && (
              <Button onClick={formatIt} title="Headings, lists, links, pictures, tables, columns and buttons">
                <Type size={15} aria-hidden /> Format it
              </Button>
            )}
            {view === "wording" && !text.doc && (
              <Button onClick={() => setPicking(true)}>
                <Braces size={15} aria-hidden /> Merge field
              </Button>
            )}
            {stored.state === "ready" && (
              <Button onClick={() => store("withdrawn")} disabled={busy}>
                Withdraw
              </Button>
            )}
            {stored.state !== "ready" && (
              <Button
                onClick={() => store("draft")}
                disabled={busy || (!changed && stored.state === "draft" && stored.id > 0)}
              >
                Store as draft
              </Button>
            )}
            <Button
              look="main"
              onClick={() => store("ready")}
              disabled={busy || stops > 0 || (!changed && stored.state === "ready")}
            >
              {stops > 0
                ? stops === 1
                  ? "1 red note"
                  : `${stops} red notes`
                : stored.state === "ready"
                  ? "Store new version"
                  : "Make ready"}
            </Button>
          </div>
        )}
      </section>
      {picking && <FieldList onPick={(f) => pick(f.path)} onClose={leaveFields} />}
    </div>
  );
}

const tagsOf = (text: string) =>
  [...new Set(text.split(",").map((t) => t.trim().replace(/\s+/g, " ")))].filter(Boolean);

function standing(t: Template, changed: boolean): string {
  if (!t.mayEdit) return `Belongs to ${t.owner}; you can use it and not change it.`;
  if (!t.id) return "Not stored yet.";
  const whom = { "": "everybody", everybody: "everybody", owner: "only its owner", some: "those it is shared with" }[
    t.counts.audience.who
  ];
  const who = {
    ready: `Ready: ${whom} can pick it.`,
    draft: "A draft: nobody can pick it before it is made ready.",
    withdrawn: "Withdrawn: nobody can pick it.",
  }[t.state];
  return `${who} Version ${t.version}${changed ? ", changed and not stored" : ""}.`;
}
