import type { RefObject } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, wordsOf } from "../../api/client";
import { same, type Wording, wordingOf } from "../library/wording";
import { formatted } from "./formatted";
import type { Template, TemplateDraft } from "./useTemplate";

/** What is done with a wording as a whole; `onOther` is told before another kind of wording is shown. */
export function useWordingActs(draft: TemplateDraft, latest: RefObject<Wording>, onOther: (noChips: boolean) => void) {
  const go = useNavigate();
  const { text, stored, load } = draft;
  const bringBack = (old: Template) => {
    onOther(!old.doc);
    load({ ...wordingOf(old), tags: text.tags });
    toast.success(`The wording of version ${old.version} is back in the editor. Save it to make it the newest.`);
  };
  const formatIt = async () => {
    const made = await formatted(() => latest.current);
    if (!made) return;
    const before = latest.current;
    const after = { ...before, kind: "formatted" as const, ...made };
    load(after);
    const back = () => {
      const { doc: _doc, ...rest } = latest.current;
      if (!same(latest.current, after))
        return void toast.error("You have gone on writing, so the template stays formatted.");
      onOther(true);
      load({ ...rest, kind: before.kind, body: before.body, subject: before.subject });
    };
    toast.success("The template is formatted.", { action: { label: "Undo", onClick: back } });
  };
  const bringIn = async (w: Partial<Wording>) => {
    onOther(false);
    // A subject that was typed in the text form gets its chips.
    const typedSubject = w.doc && !w.subject && text.subject;
    const made = typedSubject
      ? (await api.POST("/api/templates/formatted", { body: { subject: text.subject, body: "" } })).data
      : undefined;
    load({ ...text, ...w, ...(made ? { subjectDoc: made.subjectDoc } : {}) });
  };
  const copy = async (follow: boolean) => {
    const { data, error } = await api.POST("/api/templates/{id}/copy", {
      params: { path: { id: stored.id }, query: { follow } },
    });
    if (!data) return void toast.error(wordsOf(error));
    toast.success(
      follow ? "Your own copy was added. It will tell you when the original changes." : "A copy was added as a draft.",
    );
    go(`/templates/${data.id}`);
  };
  return { bringBack, formatIt, bringIn, copy };
}
