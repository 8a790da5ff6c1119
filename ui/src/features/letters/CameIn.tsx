import { Link, useLocation } from "react-router";
import { $api } from "../../api/client";
import { momentOf } from "../../components/time";

/** What came in for a letter, each to be opened where it is filed. */
export function CameIn({ id }: { id: number }) {
  const { pathname } = useLocation();
  const list = $api.useQuery("get", "/api/letters/{id}/incoming", { params: { path: { id } } }, { staleTime: 0 });
  if (!list.data?.length) return null;
  return (
    <ul aria-label="Replies" className="mt-3 border-t border-rule">
      {list.data.map((l) => (
        <li key={l.id} className="border-b border-rule py-1.5">
          <Link to={`${pathname}?came=${l.id}`} className="block hover:underline">
            <span className={`text-sm ${l.kind === "answer" ? "font-semibold text-ok" : "text-ink-soft"}`}>
              {l.fromName || l.fromEmail}, {momentOf(l.at)}
            </span>
            <span className="line-clamp-2 text-ink-soft">{l.said}</span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
