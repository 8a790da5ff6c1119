import { $api, api } from "../../api/client";
import { Button } from "../../components/Button";
import { listOf, plural } from "../../components/plural";
import type { Shown } from "./useMembers";
import type { Acting } from "./useRound";
import { countWords, type Round } from "./words";

type Props = { round: Round; shown: Shown; act: Acting };

/** Whom a round is for, and what changed in its list since it began. */
export function WhoStep({ round, shown, act }: Props) {
  const over = round.state === "done" || round.state === "stopped";
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-6 sm:px-6">
      <p className="font-serif text-xl">
        {plural(round.total, "person", "people")} {round.list ? `from the list “${round.list}”` : "that you selected"},
        one letter each.
      </p>
      {round.list && (
        <p className="mt-1 text-ink-soft">
          The list as it was when the round began; who comes to it later is told here.
        </p>
      )}
      {round.doubles > 0 && (
        <p className="mt-3">{plural(round.doubles, "person was", "people were")} picked twice; each gets one letter.</p>
      )}
      {round.unmailable && (
        <p role="alert" className="mt-3 border-l-3 border-stop bg-stop-soft px-3 py-2">
          Nobody of this round has an email address. Add addresses to the records, or choose other people in People.
        </p>
      )}
      <p className="mt-3">{countWords(round.groups)}.</p>
      {round.list && !over && <ListNews round={round} act={act} />}
      {!over && (
        <Button look="main" className="mt-6" onClick={() => shown.set({ step: round.template ? "check" : "template" })}>
          {round.template ? "Check the letters" : "Choose the template"}
        </Button>
      )}
    </div>
  );
}

function ListNews({ round, act }: { round: Round; act: Acting }) {
  const path = { params: { path: { id: round.id } } };
  const news = $api.useQuery("get", "/api/rounds/{id}/list", path, { staleTime: 10_000 });
  const { data } = news;
  const decide = async (body: { add?: boolean; remove?: boolean }, said: string) => {
    await act(api.POST("/api/rounds/{id}/list", { ...path, body }), said);
    await news.refetch();
  };
  if (!data || data.more.added + data.more.gone === 0) return null;
  const names = (list: { name: string }[], n: number) =>
    listOf([...list.slice(0, 5).map((p) => p.name), ...(n > 5 ? [plural(n - 5, "other")] : [])]);
  return (
    <section aria-label="News of the list" className="mt-5 border-l-3 border-advice py-1 pl-4">
      {data.more.added > 0 && (
        <div className="mb-3">
          <p>
            {plural(data.more.added, "person has", "people have")} come to the list since:{" "}
            {names(data.added, data.more.added)}.
          </p>
          <span className="mt-1 flex gap-2">
            <Button onClick={() => void decide({ add: true }, "Added to the round.")}>Add them</Button>
            <Button onClick={() => void decide({ add: false }, "Left out.")}>Leave them out</Button>
          </span>
        </div>
      )}
      {data.more.gone > 0 && (
        <div>
          <p>
            {plural(data.more.gone, "person has", "people have")} gone from the list since:{" "}
            {names(data.gone, data.more.gone)}.
          </p>
          <span className="mt-1 flex gap-2">
            <Button onClick={() => void decide({ remove: true }, "Set aside.")}>Hold them back</Button>
            <Button onClick={() => void decide({ remove: false }, "They stay in the round.")}>Keep them in</Button>
          </span>
        </div>
      )}
    </section>
  );
}
