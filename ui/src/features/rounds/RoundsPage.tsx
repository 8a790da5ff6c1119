import { useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { dayOf } from "../../components/time";
import { RecipeDialog } from "./RecipeDialog";
import { StartRound } from "./StartRound";
import { countWords, stateWords } from "./words";

/** My rounds, and the recipes that can be run. */
export function RoundsPage() {
  const [starting, setStarting] = useState(false);
  const rounds = $api.useQuery("get", "/api/rounds");
  return (
    <div className="mx-auto w-full max-w-4xl px-4 pt-4 pb-10 sm:px-6">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1 className="font-serif text-2xl font-semibold">Rounds</h1>
        <Button look="main" className="ml-auto" onClick={() => setStarting(true)}>
          <Plus size={15} aria-hidden /> Start a round
        </Button>
      </div>
      <p className="mb-4 text-ink-soft">One template to many people, one personal letter each.</p>
      <ProblemText error={rounds.error} />
      {rounds.isPending && <Loading />}
      {rounds.data?.length === 0 && (
        <p className="border border-rule bg-sheet px-5 py-8">
          You have no rounds yet. Start one with a saved list, or{" "}
          <Link to="/people" className="text-main underline">
            select people
          </Link>{" "}
          and press Round.
        </p>
      )}
      <ul>
        {rounds.data?.map((r) => (
          <li key={r.id}>
            <Link
              to={`/rounds/${r.id}`}
              className="grid gap-x-6 border-b border-rule bg-sheet px-4 py-2.5 hover:bg-main-soft sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_6rem]"
            >
              <span className="min-w-0">
                <span className="block truncate font-serif text-lg font-semibold">{r.name}</span>
                <span className="block truncate text-sm text-ink-soft">{r.template || "No template yet"}</span>
              </span>
              <span className="min-w-0 self-center">
                <span className="block">
                  {stateWords(r)} · {plural(r.total, "person", "people")}
                </span>
                <span className="block truncate text-sm text-ink-soft">{countWords(r.groups)}</span>
              </span>
              <span className="self-center text-sm text-ink-soft sm:text-right">{dayOf(r.updatedAt)}</span>
            </Link>
          </li>
        ))}
      </ul>
      <Recipes />
      {starting && <StartRound onClose={() => setStarting(false)} />}
    </div>
  );
}

/** Rounds that leads keep for others: each is run in four steps. */
function Recipes() {
  const go = useNavigate();
  const queries = useQueryClient();
  const recipes = $api.useQuery("get", "/api/recipes");
  const may = $api.useQuery("get", "/api/session").data?.may.editShared ?? false;
  const [editing, setEditing] = useState<Schemas["RecipeOut"] | "new" | null>(null);
  const run = async (r: Schemas["RecipeOut"]) => {
    const { data, error } = await api.POST("/api/rounds", { body: { recipeId: r.id } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    go(`/rounds/${data.id}`);
  };
  const putBack = async (id: number) => {
    await api.POST("/api/recipes/{id}/put-back", { params: { path: { id } } }).catch(noAnswer);
    await queries.invalidateQueries({ queryKey: ["get", "/api/recipes"] });
  };
  const remove = async (r: Schemas["RecipeOut"]) => {
    const { error } = await api.DELETE("/api/recipes/{id}", { params: { path: { id: r.id } } }).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/recipes"] });
    toast.success(`“${r.name}” is deleted.`, { action: { label: "Undo", onClick: () => void putBack(r.id) } });
  };
  return (
    <section aria-label="Recipes" className="mt-10">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <h2 className="font-serif text-xl font-semibold">Recipes</h2>
        {may && (
          <Button className="ml-auto" onClick={() => setEditing("new")}>
            <Plus size={15} aria-hidden /> New recipe
          </Button>
        )}
      </div>
      <p className="mb-3 text-sm text-ink-soft">
        A round that a team lead prepared: run it again whenever its list has people.
      </p>
      <ProblemText error={recipes.error} />
      {recipes.data?.length === 0 && (
        <p className="border border-rule bg-sheet px-5 py-6">
          {may
            ? "No recipes yet. Make one from a shared list and the templates that may be used."
            : "No recipes yet. A team lead can make some."}
        </p>
      )}
      <ul>
        {recipes.data?.map((r) => (
          <li
            key={r.id}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule bg-sheet px-4 py-2.5"
          >
            <span className="min-w-0 flex-1">
              <span className="block truncate font-serif text-lg font-semibold">{r.name}</span>
              <span className="block text-sm text-ink-soft">
                List “{r.list}” · {r.templates.map((t) => t.name).join(", ") || "no template ready"}
              </span>
              {r.problem && <span className="block text-sm text-stop">{r.problem}</span>}
            </span>
            {!r.problem && <span className="text-sm text-ink-soft">{plural(r.people, "person", "people")} now</span>}
            <Button disabled={r.problem !== ""} onClick={() => void run(r)}>
              Run<span className="sr-only"> {r.name}</span>
            </Button>
            {r.mine && (
              <Actions
                label={`More about ${r.name}`}
                items={[
                  ["Change", () => setEditing(r)],
                  ["Delete", () => void remove(r)],
                ]}
              />
            )}
          </li>
        ))}
      </ul>
      {editing && <RecipeDialog recipe={editing === "new" ? null : editing} onClose={() => setEditing(null)} />}
    </section>
  );
}
