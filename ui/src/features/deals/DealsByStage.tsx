import {
  type Announcements,
  DndContext,
  type DragEndEvent,
  type KeyboardCoordinateGetter,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  rectIntersection,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { useQueryClient } from "@tanstack/react-query";
import { GripVertical } from "lucide-react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { plural } from "../../components/plural";
import { dayOf } from "../../components/time";

type Deal = Schemas["DealRow"];

/** The arrows go from column to column, in the middle of each. */
const byColumn: KeyboardCoordinateGetter = (event, { context, currentCoordinates }) => {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.code];
  if (!by) return undefined;
  event.preventDefault();
  const columns = context.droppableContainers
    .getEnabled()
    .map((c) => c.rect.current)
    .filter((r) => r !== null)
    .sort((a, b) => a.left - b.left);
  const card = context.collisionRect;
  if (!card) return undefined;
  const middle = card.left + card.width / 2;
  const here = columns.findIndex((r) => middle >= r.left && middle < r.left + r.width);
  const next = columns[here + by];
  return next
    ? { x: currentCoordinates.x + (next.left - (columns[here]?.left ?? card.left)), y: currentCoordinates.y }
    : undefined;
};

/** The deals in columns by their stage; one is moved by dragging it, or with Space and the arrows. */
export function DealsByStage({ deals }: { deals: Deal[] }) {
  const queries = useQueryClient();
  const choices = $api.useQuery("get", "/api/fields").data?.find((f) => f.path === "deal.stage")?.choices ?? [];
  const stages = [...choices, ...new Set(deals.map((d) => d.stage).filter((s) => !choices.includes(s)))];
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 8 } }),
    useSensor(KeyboardSensor, { coordinateGetter: byColumn }),
  );
  const move = async (d: Deal, stage: string, was: string): Promise<boolean> => {
    const { error } = await api
      .PATCH("/api/records/{kind}/{id}", {
        params: { path: { kind: "deal", id: d.id } },
        body: { path: "deal.stage", was, value: stage },
      })
      .catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/deals"] });
    return !error;
  };
  const dropped = async ({ active, over }: DragEndEvent) => {
    const d = active.data.current as Deal;
    const stage = over?.id as string | undefined;
    if (!stage || stage === d.stage) return;
    if (await move(d, stage, d.stage))
      toast(`${d.name}: ${stage}.`, { action: { label: "Undo", onClick: () => void move(d, d.stage, stage) } });
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={(args) => {
        const under = pointerWithin(args);
        return under.length > 0 ? under : rectIntersection(args);
      }}
      onDragEnd={(e) => void dropped(e)}
      accessibility={{ announcements, screenReaderInstructions: { draggable: instructions } }}
    >
      <div className="flex min-h-0 flex-1 overflow-x-auto border-t border-rule bg-sheet">
        {stages.map((stage) => (
          <Column key={stage} stage={stage} deals={deals.filter((d) => d.stage === stage)} />
        ))}
      </div>
    </DndContext>
  );
}

const instructions =
  "Press Space to take the deal, the left and right arrows to move it to another stage, Space to put it down, Escape to leave it.";
const nameOf = (a: { data: { current?: unknown } }) => (a.data.current as Deal | undefined)?.name ?? "The deal";
const announcements: Announcements = {
  onDragStart: ({ active }) => `${nameOf(active)} was taken.`,
  onDragOver: ({ active, over }) => (over ? `${nameOf(active)} is over ${over.id}.` : ""),
  onDragEnd: ({ active, over }) => (over ? `${nameOf(active)} was put into ${over.id}.` : ""),
  onDragCancel: ({ active }) => `${nameOf(active)} stays where it was.`,
};

function Column({ stage, deals }: { stage: string; deals: Deal[] }) {
  const { setNodeRef, isOver } = useDroppable({ id: stage });
  return (
    <section
      ref={setNodeRef}
      aria-label={stage}
      className={`flex min-w-52 flex-1 flex-col border-r border-rule last:border-r-0 ${isOver ? "bg-main-soft" : ""}`}
    >
      <h2 className="border-b border-rule-strong px-3 py-1.5 text-sm text-ink-soft">
        <b className="font-serif text-base text-ink">{stage}</b> {plural(deals.length, "deal")}
      </h2>
      <ul className="min-h-24 flex-1 overflow-y-auto">
        {deals.map((d) => (
          <Card key={d.id} deal={d} />
        ))}
      </ul>
    </section>
  );
}

function Card({ deal: d }: { deal: Deal }) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({ id: d.id, data: d });
  return (
    <li
      ref={setNodeRef}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
      className={`flex items-start gap-1 border-b border-rule bg-sheet py-1.5 pr-3 pl-1 ${isDragging ? "relative z-20 border border-main" : ""}`}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Move ${d.name}`}
        className="mt-1 cursor-grab touch-none text-ink-soft hover:text-main"
      >
        <GripVertical size={15} aria-hidden />
      </button>
      <div className="min-w-0 flex-1">
        <Link to={`/deals/${d.id}`} className="font-serif font-medium hover:underline">
          {d.name}
        </Link>
        <p className="truncate text-sm text-ink-soft">{[d.company, d.contact].filter(Boolean).join(" · ")}</p>
        <p className="flex justify-between text-sm tabular-nums">
          <span>{d.amount}</span>
          <span className="text-ink-soft">{d.closeDate && dayOf(d.closeDate)}</span>
        </p>
      </div>
    </li>
  );
}
