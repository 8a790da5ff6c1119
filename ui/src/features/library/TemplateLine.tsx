import { useDraggable, useDroppable } from "@dnd-kit/core";
import { Star } from "lucide-react";
import { Link } from "react-router";
import { type Action, Actions } from "../../components/Actions";
import { plural, times } from "../../components/plural";
import { dayOf } from "../../components/time";
import { Marked } from "./Marked";
import type { Line } from "./useLibrary";
import { fitsWords } from "./words";

type Props = {
  line: Line;
  active: boolean;
  /** Where it stands, when it is not plain from what is shown. */
  place: string;
  actions: Action[];
  onFocus: () => void;
  onStar: () => void;
};

/** A template in the list. It can be dragged into a folder, or onto another one to stand before it. */
export function TemplateLine({ line: t, active, place, actions, onFocus, onStar }: Props) {
  const drag = useDraggable({ id: `t${t.id}`, data: { template: t }, disabled: !t.mayEdit });
  const drop = useDroppable({ id: `before${t.id}`, data: { before: t } });
  return (
    <li
      id={`t${t.id}`}
      ref={(node) => {
        drag.setNodeRef(node);
        drop.setNodeRef(node);
      }}
      className={`flex items-start gap-x-1 border-b border-rule py-1.5 pr-2 pl-1 ${drag.isDragging ? "opacity-50" : ""} ${drop.isOver ? "border-t-2 border-t-main" : ""} ${active ? "bg-main-soft" : "hover:bg-ground"}`}
    >
      <button
        type="button"
        aria-pressed={t.starred}
        aria-label={t.starred ? `Unstar ${t.name}` : `Star ${t.name}`}
        onClick={onStar}
        className={`flex size-7 shrink-0 items-center justify-center rounded-sm ${t.starred ? "text-advice" : "text-ink-soft hover:text-main"}`}
      >
        <Star size={15} aria-hidden fill={t.starred ? "currentColor" : "none"} />
      </button>
      <div
        {...drag.listeners}
        className="grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)_auto] gap-x-5 sm:grid-cols-[minmax(0,1fr)_8rem_5.5rem]"
      >
        <div className="min-w-0">
          <Link
            to={`/templates/${t.id}`}
            onFocus={onFocus}
            draggable={false}
            className="font-serif text-[1.1rem] font-medium hover:underline"
          >
            <Marked pieces={t.found?.name} plain={t.name} />
          </Link>
          <p className="truncate text-sm text-ink-soft">
            <Marked pieces={t.found?.whenToUse} plain={t.whenToUse} />
          </p>
          {t.found?.subject.some((p) => p.hit) && (
            <p className="truncate text-sm">
              <span className="text-ink-soft">Subject: </span>
              <Marked pieces={t.found.subject} plain="" />
            </p>
          )}
          {t.found?.body.some((p) => p.hit) && (
            <p className="line-clamp-2 text-sm">
              <Marked pieces={t.found.body} plain="" />
            </p>
          )}
          {(place || t.tags.length + t.languages.length > 0) && (
            <p className="truncate text-sm text-ink-soft">
              {[place, t.languages.join(", "), ...t.tags.map((x) => `#${x}`)].filter(Boolean).join(" · ")}
            </p>
          )}
        </div>
        <p className="hidden text-sm text-ink-soft sm:block">
          {t.used === 0 ? "never sent" : `sent ${times(t.used)}`}
          {t.lastUsed && <span className="block">last {dayOf(t.lastUsed)}</span>}
        </p>
        <p className={`text-right text-sm ${t.state === "ready" ? "text-ok" : "text-advice"}`}>
          {t.state}
          {t.stops > 0 && <span className="block text-stop">{plural(t.stops, "error")}</span>}
          {t.fits.length < 3 && <span className="block text-ink-soft">{fitsWords(t.fits)}</span>}
        </p>
      </div>
      <Actions label={`Actions for ${t.name}`} items={actions} />
    </li>
  );
}
