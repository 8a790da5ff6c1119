import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { $api, api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";
import { AfterFields } from "./AfterFields";

type Said = Schemas["RecipeSaid"];

/** What a recipe lays down: the list, the templates that may be used, what to look at, what happens afterwards. */
export function RecipeDialog({ recipe, onClose }: { recipe: Schemas["RecipeOut"] | null; onClose: () => void }) {
  const queries = useQueryClient();
  const known = $api.useQuery("get", "/api/lists").data;
  const lists = (known ?? []).filter((l) => l.shared);
  const templates =
    $api.useQuery("get", "/api/templates", { params: { query: { state: "ready", sort: "name", limit: 200 } } }).data
      ?.templates ?? [];
  const [name, setName] = useState(recipe?.name ?? "");
  const [list, setList] = useState(recipe?.listId ?? 0);
  const chosen = lists.some((l) => l.id === list) ? list : 0;
  const [said, setSaid] = useState<Said>(recipe?.said ?? { templates: [], look: "", when: {}, after: {} });
  const [q, setQ] = useState("");
  const { write, busy, problem } = useWrite(
    () => {
      const body = { name, listId: chosen, said, version: recipe?.version ?? 0 };
      return recipe
        ? api.PUT("/api/recipes/{id}", { params: { path: { id: recipe.id } }, body })
        : api.POST("/api/recipes", { body });
    },
    async () => {
      await queries.invalidateQueries({ queryKey: ["get", "/api/recipes"] });
      onClose();
    },
  );
  const shown = templates.filter(
    (t) => said.templates.includes(t.id) || t.name.toLowerCase().includes(q.toLowerCase()),
  );
  return (
    <Modal
      title={recipe ? "Change the recipe" : "New recipe"}
      wide
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <Button
            look="main"
            className="ml-auto"
            disabled={busy || !name.trim() || said.templates.length === 0 || chosen === 0}
            onClick={() => write()}
          >
            Save the recipe
          </Button>
        </>
      }
    >
      <div className="grid gap-x-8 gap-y-4 sm:grid-cols-2">
        <Input label="Name" value={name} onChange={(e) => setName(e.target.value)} />
        <label className="block">
          <span className="block text-sm text-ink-soft">To everybody in the shared list</span>
          <select
            value={chosen}
            onChange={(e) => setList(Number(e.target.value))}
            className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          >
            {chosen === 0 && <option value={0}>Choose a list</option>}
            {lists.map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}
              </option>
            ))}
          </select>
          {known && recipe && list === recipe.listId && chosen === 0 && (
            <span className="block text-sm text-stop">“{recipe.list}” is not a shared list any more.</span>
          )}
          {known && lists.length === 0 && (
            <span className="block text-sm text-stop">No list is shared yet; share one in People first.</span>
          )}
        </label>
        <fieldset className="min-w-0">
          <legend className="text-sm text-ink-soft">Templates that may be used</legend>
          <input
            type="search"
            aria-label="Find a template"
            placeholder="Find a template"
            value={q}
            onChange={(e) => setQ(e.target.value)}
            className="mb-1 w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
          />
          <div className="h-44 overflow-auto border border-rule px-2 py-1">
            {shown.map((t) => (
              <label key={t.id} className="flex items-baseline gap-2 py-0.5">
                <input
                  type="checkbox"
                  className="accent-main"
                  checked={said.templates.includes(t.id)}
                  onChange={(e) =>
                    setSaid({
                      ...said,
                      templates: e.target.checked
                        ? [...said.templates, t.id]
                        : said.templates.filter((x) => x !== t.id),
                    })
                  }
                />
                {t.name}
              </label>
            ))}
          </div>
        </fieldset>
        <label className="block">
          <span className="block text-sm text-ink-soft">What to look at before it is sent</span>
          <textarea
            rows={7}
            maxLength={2000}
            value={said.look}
            onChange={(e) => setSaid({ ...said, look: e.target.value })}
            className="w-full border border-rule-strong bg-sheet p-2 outline-none focus:border-main"
          />
        </label>
      </div>
      <div className="mt-4">
        <AfterFields after={said.after} onChange={(after) => setSaid({ ...said, after })} />
      </div>
    </Modal>
  );
}
