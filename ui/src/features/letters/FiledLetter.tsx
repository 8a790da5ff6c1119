import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { $api } from "../../api/client";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { momentOf } from "../../components/time";
import { BackNote } from "./Back";
import { CameIn } from "./CameIn";
import { MailSheet } from "./MailSheet";
import { StateLine } from "./StateLine";
import { Story } from "./Story";

/** A letter that is on its way or has gone, as it was sent. */
export function FiledLetter({ id, onGone }: { id: number; onGone?: () => void }) {
  const queries = useQueryClient();
  const path = { params: { path: { id } } };
  const letter = $api.useQuery("get", "/api/letters/{id}", path, {
    refetchInterval: (q) => (["waiting", "sending"].includes(q.state.data?.state ?? "") ? 700 : false),
  });
  const state = letter.data?.state;
  const proof = $api.useQuery("get", "/api/letters/{id}/proof", path, {
    enabled: state !== undefined && state !== "draft",
  });
  const back = $api.useQuery("get", "/api/letters/{id}/back", path, {
    enabled: state === "sent",
    refetchInterval: 4000,
  });
  const before = useRef(state);
  useEffect(() => {
    if (before.current && before.current !== state) {
      onGone?.();
      queries.invalidateQueries({ queryKey: ["get", "/api/letters/{id}/proof"] });
    }
    before.current = state;
  }, [state, onGone, queries]);
  if (letter.isPending) return <Loading />;
  if (letter.error) return <ProblemText error={letter.error} />;
  const l = letter.data;
  if (l.state === "draft")
    return (
      <p className="mx-auto max-w-2xl">
        This letter is a draft again.{" "}
        <Link className="text-main underline" to={`/letters/${l.id}`}>
          Continue writing
        </Link>
      </p>
    );
  return (
    <article className="mx-auto max-w-2xl" aria-label={`Letter: ${l.subject}`}>
      <StateLine letter={l} onChanged={() => letter.refetch()} />
      {proof.data ? <MailSheet mail={proof.data.mail} outside /> : <Loading />}
      <ProblemText error={proof.error} />
      {back.data && l.state === "sent" && <BackNote back={back.data} />}
      <CameIn id={l.id} />
      {l.state === "sent" && (
        <p className="mt-3 text-sm text-ink-soft">
          Filed as it was sent{l.sentAt ? `, ${momentOf(l.sentAt)}` : ""}
          {l.template && (
            <>
              {" "}
              · from the template{" "}
              <Link className="text-main underline" to={`/templates/${l.templateId}`}>
                {l.template}
              </Link>
              , version {l.templateVersion}
            </>
          )}{" "}
          ·{" "}
          <a className="text-main underline" href={`/api/letters/${l.id}/source`}>
            Save as .eml
          </a>
          {!l.internal && (
            <>
              {" "}
              ·{" "}
              <Link className="text-main underline" to={`/start?person=${l.personId}&letter=${l.id}`}>
                Follow up with a plan
              </Link>
            </>
          )}
        </p>
      )}
      <Story id={l.id} open={l.state !== "sent"} />
    </article>
  );
}
