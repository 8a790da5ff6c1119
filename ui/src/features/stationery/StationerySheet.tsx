import { useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { useRef, useState } from "react";
import { toast } from "sonner";
import { $api, api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { FieldList } from "../templates/FieldList";
import { FormattedBody } from "../templates/FormattedBody";
import { PageLook } from "./PageLook";
import { StationeryPreview } from "./StationeryPreview";
import type { Stationery } from "./stationery";

type Doc = Schemas["Document"];
type Props = { first: Stationery; mayEdit: boolean; onStored: (s: Stationery) => void };

/** One stationery: its header and footer, the look of the sheet, and how it looks around a template. */
export function StationerySheet({ first, mayEdit, onStored }: Props) {
  const queries = useQueryClient();
  const [name, setName] = useState(first.name);
  const [header, setHeader] = useState(first.header);
  const [footer, setFooter] = useState(first.footer);
  const [picking, setPicking] = useState<"header" | "footer" | null>(null);
  const editors = useRef<{ header?: Editor; footer?: Editor }>({});
  const fields = $api.useQuery("get", "/api/fields").data ?? [];
  const input = (ready: boolean, standard: boolean) => ({ name, header, footer, ready, default: standard });
  const { write, busy, problem } = useWrite(
    ({ ready, standard }: { ready: boolean; standard: boolean }) =>
      first.id
        ? api.PUT("/api/stationery/{id}", {
            params: { path: { id: first.id } },
            body: { ...input(ready, standard), version: first.version },
          })
        : api.POST("/api/stationery", { body: input(ready, standard) }),
    async (data, { ready }) => {
      await queries.invalidateQueries({ queryKey: ["get", "/api/stationery"] });
      toast.success(ready ? "Saved. Templates that use it are updated." : "Saved as not ready.");
      onStored(data);
    },
  );
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
            <Button look="main" disabled={busy} onClick={() => write({ ready: true, standard: first.default })}>
              {first.ready ? "Save" : "Make ready"}
            </Button>
            {!first.default && (
              <Button disabled={busy} onClick={() => write({ ready: true, standard: true })}>
                Make this the default
              </Button>
            )}
            {!first.default && (
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
