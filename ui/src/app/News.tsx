import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, noAnswer, type Schemas } from "../api/client";

export const said: Partial<Record<Schemas["NewsRow"]["kind"], string>> = {
  opened: "opened",
  clicked: "clicked a link in",
  document: "opened a document from",
  replied: "replied to",
  received: "wrote",
  answered: "answered a question in",
  away: "is away. Automatic reply to",
  bounced: "did not receive",
  complained: "complained about",
  "opted out": "unsubscribed from",
};

/** Says what came back while the screen is open, and counts in its title what waits for an answer. */
export function News() {
  const queries = useQueryClient();
  const go = useNavigate();
  const [answers, setAnswers] = useState(0);
  const last = useRef(-1);
  useEffect(() => {
    let gone = false;
    const look = async () => {
      const { data } = await api.GET("/api/news", { params: { query: { after: last.current } } }).catch(noAnswer);
      if (!data || gone) return;
      last.current = data.last;
      setAnswers(data.answers);
      if (data.cameBack.length === 0) return;
      await queries.invalidateQueries({ queryKey: ["get", "/api/incoming"] });
      void queries.invalidateQueries({ queryKey: ["get", "/api/news/open"] });
      for (const n of data.cameBack.slice(0, 3)) {
        toast(`${n.person || "Somebody"} ${said[n.kind] ?? n.kind} “${n.subject || n.text}”`, {
          action: n.personId
            ? {
                label: "Open",
                onClick: () =>
                  go(`/people/${n.personId}?${n.incomingId ? `came=${n.incomingId}` : `letter=${n.letterId}`}`),
              }
            : undefined,
        });
      }
      if (data.cameBack.length > 3) toast(`And ${data.cameBack.length - 3} more.`);
    };
    void look();
    const timer = window.setInterval(look, 5000);
    return () => {
      gone = true;
      window.clearInterval(timer);
    };
  }, [go, queries]);
  useEffect(() => {
    document.title = answers > 0 ? `(${answers}) Lucid Letter` : "Lucid Letter";
  }, [answers]);
  return null;
}
