import { useQueries, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { type Action, Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";
import { figures } from "../../components/plural";

export type List = Schemas["ListSheet"];
/** What a list is: whom it holds, in which order. */
export type Looked = { filter: string; sort: string; down: boolean; columns: string };

export function useLists() {
  return $api.useQuery("get", "/api/lists", {}, { staleTime: 0 });
}

/** How far a list is counted: nobody needs to know more. */
const most = 10_000;

/** How many people each list holds, in words, as they are counted. */
function useCounts(lists: List[]): Map<number, string> {
  const answers = useQueries({
    queries: lists
      .filter((l) => !l.problem)
      .map((l) =>
        $api.queryOptions(
          "get",
          "/api/people/count",
          { params: { query: { where: l.filter, most } } },
          { staleTime: 0 },
        ),
      ),
  });
  const counted = lists.filter((l) => !l.problem);
  return new Map(
    counted.map((l, i) => {
      const count = answers[i]?.data;
      return [l.id, count ? `${figures.format(count.count)}${count.more ? "+" : ""}` : ""];
    }),
  );
}

type Props = { at: string; onOpen: (l: Looked) => void };

/** The saved lists with how many they hold; one that stands in the address is marked. */
export function SavedLists({ at, onOpen }: Props) {
  const lists = useLists().data ?? [];
  const counts = useCounts(lists);
  const everybody = { filter: "", sort: "", down: false, columns: "" };
  return (
    <nav aria-label="Lists" className="h-full overflow-auto py-2">
      <ul>
        <li className="flex">
          <Line name="Everybody" here={at === ""} onOpen={() => onOpen(everybody)} />
        </li>
        {lists.map((l) => (
          <li key={l.id} className="flex items-center">
            <Line
              name={l.name}
              note={l.problem ? "can’t be used" : counts.get(l.id)}
              title={l.problem || (l.shared ? `Shared by ${l.owner}` : "Only you see it")}
              here={at === l.filter}
              onOpen={() => onOpen(l)}
            />
            <ListActions list={l} />
          </li>
        ))}
      </ul>
      {lists.length === 0 && (
        <p className="px-4 py-2 text-sm text-ink-soft sm:px-6">Filter people and save the filter to see it here.</p>
      )}
      <Link to="/rounds" className="mt-3 block px-4 py-1 text-main hover:underline sm:px-6">
        Rounds and recipes
      </Link>
    </nav>
  );
}

/** The same where there is no room at the left. */
export function ListSelect({ at, onOpen }: Props) {
  const lists = useLists().data ?? [];
  const counts = useCounts(lists);
  if (lists.length === 0) return null;
  return (
    <select
      aria-label="List"
      value={at}
      onChange={(e) =>
        onOpen(lists.find((l) => l.filter === e.target.value) ?? { filter: "", sort: "", down: false, columns: "" })
      }
      className="max-w-full border-b border-rule-strong bg-transparent py-0.5 text-sm outline-none focus:border-main"
    >
      <option value="">Everybody</option>
      {lists.map((l) => (
        <option key={l.id} value={l.filter}>
          {l.name} {counts.get(l.id) && `(${counts.get(l.id)})`}
        </option>
      ))}
      {at !== "" && !lists.some((l) => l.filter === at) && <option value={at}>this filter</option>}
    </select>
  );
}

function Line(props: { name: string; note?: string; title?: string; here: boolean; onOpen: () => void }) {
  const { name, note, title, here, onOpen } = props;
  return (
    <button
      type="button"
      aria-current={here ? "true" : undefined}
      title={title}
      onClick={onOpen}
      className={`flex min-w-0 flex-1 items-baseline justify-between gap-2 px-4 py-1 text-left sm:pl-6 ${here ? "bg-main-soft font-semibold text-main" : "hover:bg-sheet"}`}
    >
      <span className="truncate">{name}</span>
      <span className="text-sm font-normal text-ink-soft tabular-nums">{note}</span>
    </button>
  );
}

function ListActions({ list }: { list: List }) {
  const queries = useQueryClient();
  const [naming, setNaming] = useState(false);
  const go = useNavigate();
  const round = useWrite(
    async () => {
      const answer = await api.POST("/api/rounds", { body: { listId: list.id } });
      if (answer.error) toast.error(wordsOf(answer.error));
      return answer;
    },
    (out) => go(`/rounds/${out.id}`),
  );
  const fresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/lists"] });
  const path = { params: { path: { id: list.id } } };
  const remove = async () => {
    const { error } = await api.DELETE("/api/lists/{id}", path).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    const back = async () => {
      const answer = await api.POST("/api/lists/{id}/put-back", path).catch(noAnswer);
      if (answer.error) toast.error(wordsOf(answer.error));
      await fresh();
    };
    toast(`The list “${list.name}” was deleted; the people stay.`, {
      action: { label: "Undo", onClick: () => void back() },
    });
    await fresh();
  };
  return (
    <>
      <Actions
        label={`More about the list ${list.name}`}
        items={[
          ["Start a round", () => void round.write()],
          ...(list.mine
            ? ([["Name and sharing", () => setNaming(true)], null, ["Delete", () => void remove()]] as Action[])
            : []),
        ]}
      />
      {naming && <SaveList list={list} looked={list} onClose={() => setNaming(false)} />}
    </>
  );
}

/** Saves a filter as a list, or a list by another name. */
export function SaveList({ list, looked, onClose }: { list?: List; looked: Looked; onClose: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState(list?.name ?? "");
  const [shared, setShared] = useState(list?.shared ?? false);
  const { write, busy, problem } = useWrite(
    () => {
      const body = {
        name,
        filter: looked.filter,
        sort: looked.sort,
        down: looked.down,
        columns: looked.columns,
        shared,
      };
      return list
        ? api.PUT("/api/lists/{id}", { params: { path: { id: list.id } }, body })
        : api.POST("/api/lists", { body });
    },
    async () => {
      await queries.invalidateQueries({ queryKey: ["get", "/api/lists"] });
      onClose();
      toast.success(list ? "The list was saved." : `The list “${name.trim()}” was added.`);
    },
  );
  return (
    <Modal
      title={list ? `The list “${list.name}”` : "Save as a list"}
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <Button look="main" type="submit" form="list" className="ml-auto" disabled={busy || !name.trim()}>
            Save the list
          </Button>
        </>
      }
    >
      <form
        id="list"
        onSubmit={(e) => {
          e.preventDefault();
          void write();
        }}
      >
        <Input label="Name" value={name} data-autofocus onChange={(e) => setName(e.target.value)} />
        <label className="mt-3 flex items-baseline gap-2">
          <input
            type="checkbox"
            className="accent-main"
            checked={shared}
            onChange={(e) => setShared(e.target.checked)}
          />
          Everybody sees this list
        </label>
        <p className="mt-1 text-sm text-ink-soft">
          The list keeps its columns and its order. “Owner is me” means whoever looks at it.
        </p>
      </form>
    </Modal>
  );
}
