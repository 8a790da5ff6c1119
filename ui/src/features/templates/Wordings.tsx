import { Plus } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import type { TemplateDraft } from "./useTemplate";

/** The wordings of a template, each in its language, and the way to another one. */
export function Wordings({ draft }: { draft: TemplateDraft }) {
  const { stored, changed } = draft;
  const [adding, setAdding] = useState(false);
  const alone = stored.wordings.length < 2;
  if (!stored.id || (alone && !stored.mayEdit)) return null;
  return (
    <nav aria-label="Languages of this template" className="flex flex-wrap items-center gap-x-4 text-sm">
      {!alone &&
        stored.wordings.map((w) => (
          <Link
            key={w.id}
            to={`/templates/${w.id}`}
            aria-current={w.id === stored.id ? "page" : undefined}
            onClick={(e) => {
              if (!changed || w.id === stored.id) return;
              e.preventDefault();
              toast.error("Save your changes first, so that they aren’t lost.");
            }}
            className={w.id === stored.id ? "border-b-2 border-main font-semibold" : "text-main hover:underline"}
          >
            {w.name || "Language unknown"}
            {w.state !== "ready" && <span className="font-normal text-ink-soft"> ({w.state})</span>}
          </Link>
        ))}
      {stored.mayEdit && (
        <button
          type="button"
          className="inline-flex items-center gap-1 text-main hover:underline"
          onClick={() =>
            changed ? toast.error("Save your changes first, so that they aren’t lost.") : setAdding(true)
          }
        >
          <Plus size={14} aria-hidden /> Another language
        </button>
      )}
      {adding && <AddWording draft={draft} onClose={() => setAdding(false)} />}
    </nav>
  );
}

function AddWording({ draft, onClose }: { draft: TemplateDraft; onClose: () => void }) {
  const { stored } = draft;
  const go = useNavigate();
  const [language, setLanguage] = useState("");
  const languages = $api.useQuery("get", "/api/languages", {}, { staleTime: Infinity }).data ?? [];
  const has = (code: string) => stored.wordings.some((w) => w.language.split("-")[0] === code.split("-")[0]);
  const add = async () => {
    const { data, error } = await api.POST("/api/templates/{id}/wordings", {
      params: { path: { id: stored.id } },
      body: { language },
    });
    if (!data) return void toast.error(wordsOf(error));
    onClose();
    go(`/templates/${data.id}`);
  };
  const name = languages.find((l) => l.code === language)?.name;
  return (
    <Modal title={`“${stored.name}” in another language`} onClose={onClose}>
      <p className="mb-4">
        It keeps its name and its figures, and people get the wording in the language they read. It starts with the
        words you have now, for you to translate; nobody can use it until you make it ready.
      </p>
      <label className="mb-5 block">
        <span className="block text-sm text-ink-soft">Language</span>
        <select
          data-autofocus
          value={language}
          onChange={(e) => setLanguage(e.target.value)}
          className="min-h-9 border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main"
        >
          <option value="">Choose a language</option>
          {languages
            .filter((l) => !has(l.code))
            .map((l) => (
              <option key={l.code} value={l.code}>
                {l.name}
              </option>
            ))}
        </select>
      </label>
      <Button look="main" disabled={!language} onClick={add}>
        {name ? `Add the wording in ${name}` : "Add the wording"}
      </Button>
    </Modal>
  );
}
