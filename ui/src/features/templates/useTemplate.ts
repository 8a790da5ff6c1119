import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, type Schemas, statusOf, wordsOf } from "../../api/client";
import { tellGone } from "../../api/gone";
import { same, stored as toStore, typed, type Wording, wordingOf } from "../library/wording";

export type Template = Schemas["TemplateOut"];
type State = Template["state"];

/** A template on its sheet: what is stored, what stands on the screen, and what the server says about it. */
export function useTemplate(first: Template) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [stored, setStored] = useState(first);
  const [text, setText] = useState(() => wordingOf(first));
  const [notes, setNotes] = useState<Schemas["Note"][]>(first.notes);
  const [fits, setFits] = useState(first.fits);
  const [taken, setTaken] = useState(first.language);
  const [settled, setSettled] = useState(() => typed(text, first.id));
  const [sheetKey, setSheetKey] = useState(0); // another one when the wording is loaded anew
  const [stale, setStale] = useState<Template | null>(null);
  const [busy, setBusy] = useState(false);
  const kept = useRef(false); // a new template was stored and gets its own address
  const changed = !same(text, wordingOf(stored));
  const set = useCallback((part: Partial<Wording>) => setText((t) => ({ ...t, ...part })), []);

  useEffect(() => {
    let current = true;
    const wording = typed(text, stored.id);
    const timer = setTimeout(async () => {
      const { data } = await api.POST("/api/templates/check", { body: wording });
      if (!data || !current) return;
      setNotes(data.notes);
      setFits(data.fits);
      setTaken(data.language);
      setSettled(wording);
    }, 150);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [text, stored.id]);

  /** Shows another wording, which need not be stored. */
  const load = useCallback((w: Wording) => {
    setText(w);
    setSheetKey((k) => k + 1);
  }, []);
  /** Shows a template as the server has it now. */
  const take = useCallback(
    (t: Template) => {
      setStored(t);
      setStale(null);
      load(wordingOf(t));
    },
    [load],
  );

  const store = async (state: State, version = stored.version, language = text.language) => {
    setBusy(true);
    const body = toStore({ ...text, language }, stored.id);
    const { data, error } = stored.id
      ? await api.PUT("/api/templates/{id}", {
          params: { path: { id: stored.id } },
          body: { ...body, state, version },
        })
      : await api.POST("/api/templates", {
          body: { ...body, state, ...(first.folderId ? { folderId: first.folderId } : {}) },
        });
    setBusy(false);
    if (error) {
      const path = { params: { path: { id: stored.id } } };
      if (statusOf(error) === 404 && stored.id)
        return tellGone("This template", () => api.POST("/api/templates/{id}/put-back", path));
      if (statusOf(error) !== 409) return void toast.error(wordsOf(error));
      const { data: theirs } = await api.GET("/api/templates/{id}", path);
      return setStale(theirs ?? null);
    }
    setStale(null);
    setStored(data);
    setText({
      ...wordingOf(data),
      ...(text.doc ? { doc: text.doc, subjectDoc: text.subjectDoc } : {}),
    });
    for (const path of ["/api/templates", "/api/tags", "/api/folders"] as const)
      queries.invalidateQueries({ queryKey: ["get", path] });
    toast.success(
      state === "ready"
        ? "Saved. It’s ready to use."
        : state === "draft"
          ? "Saved as a draft."
          : "Withdrawn. Nobody can use it now.",
    );
    if (!stored.id) {
      kept.current = true;
      go(`/templates/${data.id}`, { replace: true });
    }
  };

  return {
    stored,
    setStored,
    text,
    set,
    load,
    take,
    notes,
    fits,
    taken,
    settled,
    sheetKey,
    stale,
    busy,
    changed,
    kept,
    store,
  };
}

export type TemplateDraft = ReturnType<typeof useTemplate>;
