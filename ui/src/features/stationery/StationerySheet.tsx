import { keepPreviousData, useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { useRef, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { PageFrame } from "../../components/PageFrame";
import { Tabs } from "../../components/Tabs";
import { fonts } from "../../editor/marks";
import { FieldList } from "../templates/FieldList";
import { FormattedBody } from "../templates/FormattedBody";
import type { Stationery } from "./stationery";

type Doc = Schemas["Document"];
type Props = { first: Stationery; mayEdit: boolean; onStored: (s: Stationery) => void };

/** One stationery: its header and footer, the look of the sheet, and how it looks around a template. */
export function StationerySheet({ first, mayEdit, onStored }: Props) {
  const queries = useQueryClient();
  const [name, setName] = useState(first.name);
  const [header, setHeader] = useState(first.header);
  const [footer, setFooter] = useState(first.footer);
  const [around, setAround] = useState(0);
  const [look, setLook] = useState<"desktop" | "phone">("desktop");
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const [picking, setPicking] = useState<"header" | "footer" | null>(null);
  const editors = useRef<{ header?: Editor; footer?: Editor }>({});
  const fields = $api.useQuery("get", "/api/fields").data ?? [];
  const templates = $api.useQuery("get", "/api/templates", { params: { query: { state: "ready", limit: 500 } } });
  const input = (ready: boolean, standard: boolean) => ({ name, header, footer, ready, default: standard });
  const preview = $api.useQuery(
    "post",
    "/api/stationery/preview",
    { body: { ...input(false, false), name: name || "x", ...(around ? { templateId: around } : {}) } },
    { placeholderData: keepPreviousData, staleTime: 0 },
  );
  const store = async (ready: boolean, standard: boolean) => {
    setBusy(true);
    setProblem("");
    const { data, error } = await (first.id
      ? api.PUT("/api/stationery/{id}", {
          params: { path: { id: first.id } },
          body: { ...input(ready, standard), version: first.version },
        })
      : api.POST("/api/stationery", { body: input(ready, standard) })
    ).catch(noAnswer);
    setBusy(false);
    if (!data) return setProblem(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/stationery"] });
    toast.success(ready ? "Saved. Templates that use it are updated." : "Saved as not ready.");
    onStored(data);
  };
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
        <fieldset disabled={!mayEdit} className="mb-5 flex flex-wrap items-end gap-x-6 gap-y-3 text-sm">
          <legend className="mb-1 font-semibold text-ink-soft">Page</legend>
          <label>
            <span className="block text-ink-soft">Font</span>
            <select
              value={header.attrs.font ?? ""}
              onChange={(e) => attr({ font: e.target.value })}
              className="border-b border-rule-strong bg-sheet py-1"
            >
              <option value="">as in the letter</option>
              {fonts.map((f) => (
                <option key={f}>{f}</option>
              ))}
            </select>
          </label>
          <label className="flex items-center gap-2">
            <span className="text-ink-soft">Background</span>
            <input
              type="color"
              value={header.attrs.background || "#ffffff"}
              onChange={(e) => attr({ background: e.target.value })}
              className="h-6 w-10"
            />
          </label>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={header.attrs.align === "center"}
              onChange={(e) => attr({ align: e.target.checked ? "center" : "" })}
              className="accent-main"
            />
            centred in the window
          </label>
        </fieldset>
        {mayEdit && (
          <div className="flex flex-wrap gap-2">
            <Button look="main" disabled={busy} onClick={() => store(true, first.default)}>
              {first.ready ? "Save" : "Make ready"}
            </Button>
            {!first.default && (
              <Button disabled={busy} onClick={() => store(true, true)}>
                Make this the default
              </Button>
            )}
            {!first.default && (
              <Button disabled={busy} onClick={() => store(false, false)}>
                Save as not ready
              </Button>
            )}
          </div>
        )}
      </div>
      <section aria-label="Preview" className="min-w-0">
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <label className="min-w-0 text-sm">
            <span className="text-ink-soft">Sample </span>
            <select
              value={around}
              onChange={(e) => setAround(Number(e.target.value))}
              className="max-w-56 border-b border-rule-strong bg-transparent py-0.5"
            >
              <option value={0}>a few words</option>
              {templates.data?.templates.map((t) => (
                <option key={t.id} value={t.id}>
                  {t.name}
                </option>
              ))}
            </select>
          </label>
          <Tabs
            label="Show on"
            choices={[
              ["desktop", "Desktop"],
              ["phone", "Phone"],
            ]}
            value={look}
            onChange={setLook}
          />
        </div>
        {preview.data && (
          <div className={`overflow-hidden border border-rule ${look === "phone" ? "max-w-[390px]" : ""}`}>
            <PageFrame
              outside
              key={look}
              html={preview.data.html}
              title="Preview of the stationery"
              scale={look === "phone" ? 1 : 0.72}
            />
          </div>
        )}
      </section>
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
