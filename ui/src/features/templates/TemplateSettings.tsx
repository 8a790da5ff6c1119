import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { $api, api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { DeleteTemplate } from "../library/DeleteTemplate";
import { RightsDialog } from "../library/RightsDialog";
import { audienceWords } from "../library/rights";
import { useChange } from "../library/useLibrary";
import type { TemplateDraft } from "./useTemplate";

type Addition = Schemas["TemplateOut"]["mayNot"][number];

const additions: [Addition, string][] = [
  ["links", "links"],
  ["pictures", "pictures"],
  ["fields", "merge fields"],
  ["attachments", "attachments"],
];
const formats = [
  ["html", "page (.html)"],
  ["md", "Markdown (.md)"],
  ["txt", "text (.txt)"],
  ["json", "template (.json)"],
  ["eml", "email (.eml)"],
] as const;

/** What is set on a template beside its wording. */
export function TemplateSettings({ draft, onCopy }: { draft: TemplateDraft; onCopy: (follow: boolean) => void }) {
  const { text, set, stored, setStored } = draft;
  const go = useNavigate();
  const change = useChange();
  const [asked, setAsked] = useState<"rights" | "delete" | null>(null);
  const [tags, setTags] = useState(() => text.tags.join(", "));
  const stationery = $api.useQuery("get", "/api/stationery").data ?? [];
  const documents = $api.useQuery("get", "/api/documents").data ?? [];
  const people = $api.useQuery("get", "/api/colleagues").data;
  const off = !stored.mayEdit;
  const sister = stored.sisterOf !== undefined;
  const main = stored.wordings[0];
  const flip = <T,>(list: T[], one: T) => (list.includes(one) ? list.filter((x) => x !== one) : [...list, one]);
  const standard = stationery.find((s) => s.default);
  return (
    <section aria-label="Settings" className="flex flex-col gap-6">
      {sister && main && (
        <p className="text-ink-soft">
          Name, when to use, tags, folder and who can use it are set on its{" "}
          <Link className="text-main underline" to={`/templates/${main.id}`}>
            {main.name || "first"} wording
          </Link>
          .
        </p>
      )}
      <div className="grid gap-x-8 gap-y-5 sm:grid-cols-2">
        {!sister && (
          <label className="block">
            <span className="block text-sm text-ink-soft">Tags, separated by commas</span>
            <input
              value={tags}
              readOnly={off}
              placeholder="first contact, florist"
              onChange={(e) => {
                setTags(e.target.value);
                set({ tags: tagsOf(e.target.value) });
              }}
              className="block min-h-9 w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
            />
          </label>
        )}
        {text.kind === "formatted" && (
          <label className="block">
            <span className="block text-sm text-ink-soft">Stationery</span>
            <select
              value={text.stationery}
              disabled={off}
              onChange={(e) => set({ stationery: Number(e.target.value) })}
              className="min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main"
            >
              <option value={0}>the default{standard ? ` (${standard.name})` : ", none yet"}</option>
              <option value={-1}>none</option>
              {stationery
                .filter((s) => s.ready || s.id === text.stationery)
                .map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.name}
                  </option>
                ))}
            </select>
          </label>
        )}
      </div>
      <fieldset disabled={off}>
        <legend className="font-semibold">Writers may add</legend>
        <p className="mb-1 text-sm text-ink-soft">Fixed wording can’t be changed either way.</p>
        <div className="flex flex-wrap gap-x-6 gap-y-1">
          {additions.map(([what, name]) => (
            <label key={what} className="flex items-baseline gap-2">
              <input
                type="checkbox"
                className="accent-main"
                checked={!text.mayNot.includes(what)}
                onChange={() => set({ mayNot: flip(text.mayNot, what) })}
              />
              {name}
            </label>
          ))}
        </div>
      </fieldset>
      {text.kind !== "plain" && (
        <label className="flex items-baseline gap-2">
          <input
            type="checkbox"
            className="accent-main"
            disabled={off}
            checked={!text.untracked}
            onChange={() => set({ untracked: !text.untracked })}
          />
          Track opens and clicks in its letters
        </label>
      )}
      <fieldset disabled={off}>
        <legend className="font-semibold">Attached to every letter</legend>
        {documents.length === 0 && (
          <p className="text-sm text-ink-soft">There are no documents yet. Team leads add them.</p>
        )}
        {documents.map((d) => (
          <label key={d.id} className="flex items-baseline gap-2">
            <input
              type="checkbox"
              className="accent-main"
              checked={text.documents.includes(d.id)}
              onChange={() => set({ documents: flip(text.documents, d.id) })}
            />
            <span>
              {d.name} <span className="text-sm text-ink-soft">{d.purpose || d.fileName}</span>
            </span>
          </label>
        ))}
      </fieldset>
      {stored.id > 0 && (
        <>
          {!sister && (
            <div>
              <h3 className="font-semibold">Who can use it</h3>
              <p className="text-sm text-ink-soft">
                {people ? sentence(audienceWords(stored.counts.audience, people)) : ""}
                {stored.own.audience.who === "" ? (stored.folderId ? " (as its folder)" : "") : " (set here)"}
              </p>
              {!off && (
                <Button className="mt-2" onClick={() => setAsked("rights")}>
                  Change who can use and edit it
                </Button>
              )}
            </div>
          )}
          <div>
            <h3 className="font-semibold">Export as a file</h3>
            <p className="flex flex-wrap gap-x-5 gap-y-1">
              {formats.map(([as, name]) => (
                <a
                  key={as}
                  href={`/api/templates/${stored.id}/export?as=${as}`}
                  download
                  className="text-main underline"
                >
                  {name}
                </a>
              ))}
            </p>
            <p className="text-sm text-ink-soft">
              As it is stored. Nothing is lost in the .json; the others keep words and fields.
            </p>
          </div>
          <div className="flex flex-wrap gap-2 border-t border-rule pt-4">
            {!sister && (
              <>
                <Button onClick={() => onCopy(false)}>Duplicate</Button>
                <Button onClick={() => onCopy(true)} title="A copy that tells you when the original changes">
                  My own copy that follows it
                </Button>
              </>
            )}
            {!off && <Button onClick={() => setAsked("delete")}>{sister ? "Delete this wording" : "Delete"}</Button>}
          </div>
        </>
      )}
      {asked === "rights" && (
        <RightsDialog
          title={`Who can use “${stored.name}”`}
          own={stored.own}
          inside={stored.folderId ? "its folder" : "the library: everybody"}
          onStore={async (body) => {
            const params = { path: { id: stored.id } };
            if (!(await change(api.PUT("/api/templates/{id}/rights", { params, body }), "Stored."))) return false;
            const { data } = await api.GET("/api/templates/{id}", { params });
            if (data) setStored({ ...stored, own: data.own, counts: data.counts });
            return true;
          }}
          onClose={() => setAsked(null)}
        />
      )}
      {asked === "delete" && (
        <DeleteTemplate
          id={stored.id}
          name={
            sister
              ? `${stored.name} (${text.language ? stored.wordings.find((w) => w.id === stored.id)?.name : "this wording"})`
              : stored.name
          }
          onDone={() => go(stored.sisterOf ? `/templates/${stored.sisterOf}` : "/templates")}
          onClose={() => setAsked(null)}
        />
      )}
    </section>
  );
}

const sentence = (words: string) => `${words.charAt(0).toUpperCase()}${words.slice(1)}.`;

const tagsOf = (text: string) =>
  [...new Set(text.split(",").map((t) => t.trim().replace(/\s+/g, " ")))].filter(Boolean);
