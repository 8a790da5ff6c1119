import { useMemo } from "react";
import type { Schemas } from "../../api/client";
import { FormattedBody } from "./FormattedBody";
import { PageBody } from "./PageBody";
import { SubjectLine } from "./SubjectLine";
import { TextForm } from "./TextForm";
import type { PageParts } from "./usePageParts";
import type { TemplateDraft } from "./useTemplate";
import type { Writers } from "./useWriters";

type Props = { draft: TemplateDraft; fields: Schemas["FieldInfo"][]; writers: Writers; parts: PageParts };

/** The words of a template on its sheet: its subject and its body, whatever kind that is. */
export function TemplateWords({ draft, fields, writers, parts }: Props) {
  const { text, set, stored, sheetKey, notes } = draft;
  const { views, setInLast, askField } = writers;
  const bodyNotes = useMemo(() => notes.filter((n) => n.part === "body" && n.severity === "stops"), [notes]);
  return (
    <>
      <SubjectLine
        draft={draft}
        fields={fields}
        onText={(v) => {
          views.current.subject = v;
        }}
        onTextFocus={(v) => {
          views.current.last = v;
        }}
        onChips={writers.setSubject}
        onChipsFocus={() => setInLast("subject")}
        onBrace={() => askField(true, writers.subject)}
        onEnter={() => writers.editor?.commands.focus("start")}
      />
      {text.doc ? (
        <FormattedBody
          key={sheetKey}
          first={text.doc}
          fields={fields}
          readOnly={!stored.mayEdit}
          onReady={writers.setEditor}
          onChange={(doc) => set({ doc })}
          onFocus={() => setInLast("body")}
          onBrace={(typed) => {
            setInLast("body");
            askField(typed, writers.editor);
          }}
        />
      ) : text.kind === "html" ? (
        <PageBody
          key={sheetKey}
          body={text.body}
          known={parts.page}
          readOnly={!stored.mayEdit}
          chosen={parts.part}
          frame={parts.frame}
          onChoose={(index, now) => {
            parts.setPage(now);
            parts.setPart(index);
          }}
          onPage={(now) => {
            parts.setPage(now);
            set({ body: now.body });
          }}
        />
      ) : (
        <TextForm
          label="Letter"
          hint="Write the letter. Type { for merge fields."
          readOnly={!stored.mayEdit}
          text={text.body}
          fields={fields}
          notes={bodyNotes}
          className="text-[1.13rem]"
          onChange={(body) => set({ body })}
          onReady={(v) => {
            views.current.body = v;
          }}
          onFocus={(v) => {
            views.current.last = v;
          }}
        />
      )}
    </>
  );
}
