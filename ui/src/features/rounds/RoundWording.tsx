import { $api, api } from "../../api/client";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { listOf } from "../../components/plural";
import { WordingEditor } from "../templates/WordingEditor";
import type { Shown } from "./useMembers";
import type { Acting } from "./useRound";
import type { Round } from "./words";

type Props = { round: Round; shown: Shown; act: Acting };

/** The wording for one round; the template stays as it is. */
export function RoundWording({ round, shown, act }: Props) {
  const path = { id: round.id };
  const wording = $api.useQuery(
    "get",
    "/api/rounds/{id}/wording",
    { params: { path } },
    { staleTime: 0, gcTime: 0, refetchOnWindowFocus: false },
  );
  if (wording.error)
    return (
      <div className="p-6">
        <ProblemText error={wording.error} />
      </div>
    );
  if (!wording.data) return <Loading />;
  return (
    <WordingEditor
      first={wording.data}
      lead={`For this round only. The template “${round.template}” stays as it is. Letters that you changed by hand keep their words.${
        round.languages.length > 0
          ? ` People who read ${listOf(round.languages)} get the template’s own wording in that language.`
          : ""
      }`}
      name="Wording for this round"
      act="Use it for this round"
      leave="Leave it as it was"
      disabled={round.state === "sending"}
      templateId={round.templateId ?? 0}
      onSave={(body) =>
        act(
          api.PUT("/api/rounds/{id}/wording", { params: { path, query: { version: round.version } }, body }),
          "Saved for this round. The template is as it was.",
        )
      }
      onDone={() => shown.set({ step: "check" })}
      onLeave={() => shown.set({ step: "template" })}
    />
  );
}
