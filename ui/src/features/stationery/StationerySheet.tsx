import { useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { $api, api, type Schemas, statusOf } from "../../api/client";
import { tellGone } from "../../api/gone";
import { useWrite } from "../../api/useWrite";
import { useUnsaved } from "../../app/unsaved";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { FieldList } from "../templates/FieldList";
import { FormattedBody } from "../templates/FormattedBody";
import { PageLook } from "./PageLook";
import { StationeryPreview } from "./StationeryPreview";
import type { Stationery } from "./stationery";

type Doc = Schemas["Document"];

const same = (a: Doc, b: Doc) => JSON.stringify(a) === JSON.stringify(b);
type Props = {
  /** What it begins with; id 0 for a new one. */
  first: Stationery;
  mayEdit: boolean;
  onChanged: (changed: boolean) => void;
  onStored: (s: Stationery) => void;
};

/** One stationery: its header and footer, the look of the sheet, and how it looks around a template. */
export function StationerySheet({ first, mayEdit, onChanged, onStored }: Props) {
  const queries = useQueryClient();
  const [base, setBase] = useState(first); // as it was last stored here
  const [name, setName] = useState(first.name);
  const [header, setHeader] = useState(first.header);
  const [footer, setFooter] = useState(first.footer);
  const [picking, setPicking] = useState<"header" | "footer" | null>(null);
  const stored = useRef(false); // what is here is saved, and gets its address
  const editors = useRef<{ header?: Editor; footer?: Editor }>({});
  const fields = $api.useQuery("get", "/api/fields").data ?? [];
  const input = (ready: boolean, standard: boolean) => ({ name, header, footer, ready, default: standard });
  // It was deleted as it was stored last; what is stored from then on is the version after.
  const putBack = async () => {
    const answer = await api.POST("/api/stationery/{id}/put-back", {
      params: { path: { id: base.id }, query: { version: base.version + 1 } },
    });
    if (answer.data) setBase({ ...base, version: answer.data.version });
    return answer;
  };
  const { write, busy, problem } = useWrite(
    ({ ready, standard }: { ready: boolean; standard: boolean }) =>
      base.id
        ? api
            .PUT("/api/stationery/{id}", {
              params: { path: { id: base.id } },
              body: { ...input(ready, standard), version: base.version },
            })
            .then((answer) => {
              if (statusOf(answer.error) === 404) tellGone("This stationery", () => putBack());
              return answer;
            })
        : api.POST("/api/stationery", { body: input(ready, standard) }),
    async (data, { ready }) => {
      // What was typed while it was on its way is not in it.
      const sent = { ...data, name, header, footer };
      await queries.invalidateQueries({ queryKey: ["get", "/api/stationery"] });
      toast.success(ready ? "Saved. Templates that use it are updated." : "Saved as not ready.");
      stored.current = true;
      setBase(sent);
      onStored(data);
    },
  );
  const changed = name !== base.name || !same(header, base.header) || !same(footer, base.footer);
  useEffect(() => {
    onChanged(changed);
    return () => onChanged(false);
  }, [changed, onChanged]);
  useUnsaved(mayEdit && changed, "this stationery", stored);
  const attr = (change: Partial<Doc["attrs"]>) => setHeader({ ...header, attrs: { ...header.attrs, ...change } });
  const part = (which: "header" | "footer", title: string, doc: Doc, set: (d: Doc) => void) => (
    <section aria-label={title} className="mb-5">
      <h2 className="mb-1 text-sm font-semibold text-ink-soft">{title}</h2>
      <div className="paper border border-rule bg-sheet px-5 py-3 [&_.ProseMirror]:min-h-20!">
        <FormattedBody
          label={title}
          settings
          first={doc}
          fields={fields}
          readOnly={!mayEdit}
          onReady={(e) => {
            editors.current[which] = e;
          }}
          onChange={(d) => set(which === "header" ? { ...d, attrs: { ...header.attrs } } : d)}
          onFocus={() => {}}
          onBrace={() => setPicking(which)}
        />
      </div>
    </section>
  );
  return (
    <div className="grid min-w-0 gap-8 xl:grid-cols-2">
      <div className="min-w-0">
        {problem && (
          <p role="alert" className="mb-3 border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
            {problem}
          </p>
        )}
        <Input
          label="Name"
          value={name}
          readOnly={!mayEdit}
          onChange={(e) => setName(e.target.value)}
          serif
          className="mb-4"
        />
        {part("header", "Header", header, setHeader)}
        {part("footer", "Footer", footer, setFooter)}
        <PageLook attrs={header.attrs} mayEdit={mayEdit} onChange={attr} />
        {mayEdit && (
          <div className="flex flex-wrap gap-2">
            <Button look="main" disabled={busy} onClick={() => write({ ready: true, standard: base.default })}>
              {base.ready ? "Save" : "Make ready"}
            </Button>
            {!base.default && (
              <Button disabled={busy} onClick={() => write({ ready: true, standard: true })}>
                Make this the default
              </Button>
            )}
            {!base.default && (
              <Button disabled={busy} onClick={() => write({ ready: false, standard: false })}>
                Save as not ready
              </Button>
            )}
          </div>
        )}
      </div>
      <StationeryPreview input={input(false, false)} />
      {picking && (
        <FieldList
          onClose={() => setPicking(null)}
          onPick={(f) => {
            const e = editors.current[picking];
            setPicking(null);
            e?.chain()
              .focus()
              .insertContent({ type: "field", attrs: { path: f.path } })
              .run();
          }}
        />
      )}
    </div>
  );
}
