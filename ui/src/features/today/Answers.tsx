import { useQueryClient } from "@tanstack/react-query";
import { Check, ListPlus, Reply } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { momentOf } from "../../components/time";
import { useAnswer } from "../letters/IncomingLetter";
import { TaskDialog } from "./TaskDialog";

/** What people wrote and nobody has answered: each answered or laid by with one press. */
export function Answers() {
  const list = $api.useQuery("get", "/api/incoming", {}, { refetchInterval: 5000 });
  if (!list.data?.length) return null;
  return (
    <section aria-label="Replies" className="mb-6 border-x border-t border-rule bg-sheet">
      <h2 className="border-b border-rule px-4 py-1.5 font-semibold sm:px-6">Replies</h2>
      <ul>
        {list.data.map((l) => (
          <Line key={l.id} letter={l} />
        ))}
      </ul>
    </section>
  );
}

function Line({ letter: l }: { letter: Schemas["IncomingRow"] }) {
  const queries = useQueryClient();
  const answer = useAnswer();
  const [task, setTask] = useState(false);
  const who = l.person || l.fromName || l.fromEmail;
  const layBy = async () => {
    const { error } = await api.POST("/api/incoming/{id}/read", { params: { path: { id: l.id } } }).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await queries.invalidateQueries();
  };
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-4 py-2 sm:flex-nowrap sm:px-6">
      <Link
        to={l.personId ? `/people/${l.personId}?came=${l.id}` : `/came/${l.id}`}
        className="min-w-0 flex-1 basis-72 hover:underline"
      >
        <span className="font-serif text-[1.05rem] font-medium">{who}</span>
        <span className="text-sm text-ink-soft">
          {" "}
          · {l.subject || "no subject"} · {momentOf(l.at)}
        </span>
        <span className="line-clamp-2 text-ink-soft">{l.said}</span>
      </Link>
      <span className="-ml-1 flex shrink-0 gap-2 sm:ml-0">
        <Button look="quiet" className="px-1! text-sm" onClick={() => answer(l.id, 0, false)}>
          <Reply size={14} aria-hidden /> Reply<span className="sr-only"> {who}</span>
        </Button>
        <Button look="quiet" className="px-1! text-sm" onClick={() => setTask(true)}>
          <ListPlus size={14} aria-hidden /> Task<span className="sr-only"> about {who}</span>
        </Button>
        <Button look="quiet" className="px-1! text-sm" onClick={layBy} title="No reply needed">
          <Check size={14} aria-hidden /> Done<span className="sr-only">: {who}</span>
        </Button>
      </span>
      {task && (
        <TaskDialog
          text={`Answer ${who}: ${l.subject}`}
          {...(l.personId && { personId: l.personId })}
          onClose={() => setTask(false)}
        />
      )}
    </li>
  );
}
