import { useQueryClient } from "@tanstack/react-query";
import { Reply, ReplyAll } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { dayOf } from "../../components/time";
import { blank } from "../find/blank";
import { TaskDialog } from "../today/TaskDialog";
import { MailSheet } from "./MailSheet";

const Picker = lazy(() => import("../find/Picker").then((m) => ({ default: m.Picker })));

const kinds: Record<Schemas["IncomingRow"]["kind"], string> = {
  answer: "",
  automatic: "An automatic reply: nobody has read your letter yet.",
  bounce: "A mail server returned your letter.",
  delay: "A mail server is still trying to deliver your letter.",
  complaint: "The recipient reported your letter as unwanted.",
};

/** A letter that came in, and its answer. */
export function IncomingLetter({ id }: { id: number }) {
  const queries = useQueryClient();
  const [picking, setPicking] = useState<"one" | "all" | null>(null);
  const [whole, setWhole] = useState(false);
  const answer = useAnswer();
  const [task, setTask] = useState(false);
  const [pictures, setPictures] = useState(false);
  const letter = $api.useQuery("get", "/api/incoming/{id}", { params: { path: { id }, query: { pictures } } });
  if (letter.isPending) return <Loading />;
  if (letter.error) return <ProblemText error={letter.error} />;
  const l = letter.data;
  const quoted = l.kind === "answer" && l.said.trim() !== l.mail.text.trim();
  const layBy = async () => {
    const { error } = await api.POST("/api/incoming/{id}/read", { params: { path: { id } } }).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    toast("Done.");
    await queries.invalidateQueries();
  };
  const undoReport = async () => {
    const { error } = await api.DELETE("/api/incoming/{id}/barred", { params: { path: { id } } }).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    toast.success("Letters can go there again.");
    await queries.invalidateQueries();
  };
  const start = async (templateId: number) => {
    if (await answer(id, templateId, picking === "all")) setPicking(null);
  };
  const many =
    (l.mail.headers.find((h) => h.name.toLowerCase() === "cc")?.value ?? "") !== "" || l.mail.to.includes(",");
  return (
    <article className="mx-auto max-w-2xl" aria-label={`Came in: ${l.subject}`}>
      {kinds[l.kind] && (
        <div className="mb-3 border-l-3 border-main bg-main-soft px-3 py-2">
          <p>
            {l.matched === "unmatched"
              ? "This report doesn’t match any letter sent from here, so nothing was changed."
              : kinds[l.kind]}
            {l.backOn && ` Back on ${dayOf(l.backOn)}.`}
          </p>
          {l.barred.length > 0 && (
            <p className="mt-1 text-sm">
              Because of this report, no letters go to {l.barred.slice(0, 5).join(", ")}
              {l.barred.length > 5 && ` and ${l.barred.length - 5} more`}.{" "}
              <Button look="quiet" className="px-0! text-sm" onClick={undoReport}>
                The report is wrong: allow letters again
              </Button>
            </p>
          )}
        </div>
      )}
      {l.kind === "answer" && !l.personId && (
        <p className="mb-3 text-ink-soft">This person isn’t in your records. Replying adds them as a lead.</p>
      )}
      <MailSheet
        mail={quoted && !whole ? { ...l.mail, text: l.said, html: "" } : l.mail}
        outside={pictures}
        files={`/api/incoming/${id}/files`}
      />
      {l.leftOut > 0 && !pictures && !(quoted && !whole) && (
        <p className="mt-1 text-sm text-ink-soft">
          Pictures from elsewhere aren’t shown: their sender would learn that you opened this.{" "}
          <Button look="quiet" className="px-0! text-sm" onClick={() => setPictures(true)}>
            Show pictures
          </Button>
        </p>
      )}
      {quoted && (
        <Button look="quiet" className="mt-1 px-0! text-sm" aria-expanded={whole} onClick={() => setWhole(!whole)}>
          {whole ? "Only the new text" : "The whole letter with quotes"}
        </Button>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-2">
        {l.kind === "answer" && (
          <>
            <Button look="main" onClick={() => answer(id, 0, false)}>
              <Reply size={15} aria-hidden /> Reply
            </Button>
            {many && (
              <Button onClick={() => answer(id, 0, true)}>
                <ReplyAll size={15} aria-hidden /> Reply all
              </Button>
            )}
            {l.personId && <Button onClick={() => setPicking("one")}>Reply with a template</Button>}
            {!l.readAt && !l.answeredAt && <Button onClick={layBy}>Done</Button>}
            <Button onClick={() => setTask(true)}>Make a task</Button>
            {l.personId && (
              <Link
                className="text-main underline-offset-4 hover:underline"
                to={`/start?person=${l.personId}${l.letterId ? `&letter=${l.letterId}` : ""}`}
              >
                Start a plan
              </Link>
            )}
          </>
        )}
        <a className="ml-auto text-sm text-main underline" href={`/api/incoming/${id}/source`}>
          Save as .eml
        </a>
      </div>
      {l.answeredAt && <p className="mt-2 text-sm text-ok">Answered {dayOf(l.answeredAt)}.</p>}
      {task && (
        <TaskDialog
          text={`Answer ${l.person || l.fromName || l.fromEmail}: ${l.subject}`}
          {...(l.personId && { personId: l.personId })}
          onClose={() => setTask(false)}
        />
      )}
      {picking && l.personId && (
        <Suspense>
          <Picker
            title={`Reply to ${l.person || l.fromEmail}`}
            personId={l.personId}
            {...(l.dealId && { dealId: l.dealId })}
            others={[blank]}
            act="Reply with this"
            onPick={(c) => start(c.id)}
            onClose={() => setPicking(null)}
          />
        </Suspense>
      )}
    </article>
  );
}

/** Begins the answer to an incoming letter and goes to the desk with it; tells whether it did. */
export function useAnswer() {
  const go = useNavigate();
  return async (id: number, templateId: number, all: boolean): Promise<boolean> => {
    const { data, error } = await api
      .POST("/api/incoming/{id}/answer", {
        params: { path: { id } },
        body: { ...(templateId && { templateId }), ...(all && { all }) },
      })
      .catch(noAnswer);
    if (data) go(`/letters/${data.id}`);
    else toast.error(wordsOf(error));
    return data !== undefined;
  };
}
