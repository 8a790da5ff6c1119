import { useQueryClient } from "@tanstack/react-query";
import { Check } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { said } from "../../app/News";
import { Button } from "../../components/Button";
import { momentOf } from "../../components/time";

type Row = Schemas["NewsRow"];

const where = (n: Row) =>
  n.personId ? `/people/${n.personId}?${n.incomingId ? `came=${n.incomingId}` : `letter=${n.letterId}`}` : null;

function What({ row }: { row: Row }) {
  const to = where(row);
  const words = (
    <>
      <b className="font-serif font-medium">{row.person || "Somebody"}</b> {said[row.kind] ?? row.kind}{" "}
      {row.subject && `“${row.subject}”`}
    </>
  );
  return to ? (
    <Link to={to} className="hover:underline">
      {words}
    </Link>
  ) : (
    <span>{words}</span>
  );
}

/** What came back besides replies: bounces, absences, answered questions, complaints. It stays until it is done. */
export function CameBack() {
  const queries = useQueryClient();
  const news = $api.useQuery("get", "/api/news/open", {}, { staleTime: 0, refetchInterval: 10_000 });
  const settle = async (row: Row, done: boolean) => {
    const { error } = await api
      .POST("/api/news/{id}/done", { params: { path: { id: row.id } }, body: { done } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/news/open"] });
    if (done) toast("Done.", { action: { label: "Undo", onClick: () => void settle(row, false) } });
  };
  if (!news.data?.length) return null;
  return (
    <section aria-label="Needs a look" className="mb-6 border-x border-t border-rule bg-sheet">
      <h2 className="border-b border-rule px-4 py-1.5 font-semibold sm:px-6">Needs a look</h2>
      <ul>
        {news.data.map((n) => (
          <li
            key={n.id}
            className="flex flex-col gap-x-4 border-b border-rule px-4 py-1.5 sm:flex-row sm:items-baseline sm:px-6"
          >
            <span className="shrink-0 text-sm text-ink-soft sm:w-32">{momentOf(n.at)}</span>
            <span className="min-w-0 flex-1">
              <What row={n} />
              {n.text && n.text !== n.subject && <span className="block text-sm text-ink-soft">{n.text}</span>}
            </span>
            <Button look="quiet" className="-ml-1 self-start px-1! text-sm sm:ml-0" onClick={() => settle(n, true)}>
              <Check size={14} aria-hidden /> Done
              <span className="sr-only">
                : {n.person}, {n.subject}
              </span>
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What the messages in the corner said last. */
export function RecentNews() {
  const [open, setOpen] = useState(false);
  const news = $api.useQuery("get", "/api/news/recent", {}, { staleTime: 0, enabled: open });
  return (
    <details className="mt-8" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer text-main">Recent activity</summary>
      {news.data?.length === 0 && (
        <p className="py-3 text-ink-soft">Nothing yet. Opens, clicks and replies appear here.</p>
      )}
      <ul aria-label="Recent activity" className="mt-2 border-t border-rule bg-sheet empty:hidden">
        {news.data?.map((n) => (
          <li key={n.id} className="flex gap-x-4 border-b border-rule px-4 py-1 sm:px-6">
            <span className="w-32 shrink-0 text-sm text-ink-soft">{momentOf(n.at)}</span>
            <What row={n} />
          </li>
        ))}
      </ul>
    </details>
  );
}
