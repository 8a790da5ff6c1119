import { useSearchParams } from "react-router";
import { FiledLetter } from "../letters/FiledLetter";
import { IncomingLetter } from "../letters/IncomingLetter";
import { OpenLetters } from "../letters/OpenLetters";
import { Ledger, type Of, type Open, useHistory } from "./Ledger";

/** A history at the left, and at the right what is open of it, as large as it was sent. */
export function Filed({ of, above, empty }: { of: Of; above?: React.ReactNode; empty: React.ReactNode }) {
  const [params, setParams] = useSearchParams();
  const only = (params.get("show") ?? "") as "" | "letters" | "back" | "changes";
  const history = useHistory(of, only);
  const asked: Open = {
    letter: Number(params.get("letter")) || undefined,
    incoming: Number(params.get("came")) || undefined,
  };
  const open = asked.letter || asked.incoming ? asked : latest(history.data?.pages[0]?.groups ?? []);
  const set = (next: Open & { show?: string }) => {
    const out: Record<string, string> = {};
    const show = next.show ?? only;
    if (show) out.show = show;
    if (next.letter) out.letter = String(next.letter);
    if (next.incoming) out.came = String(next.incoming);
    setParams(out, { replace: next.show !== undefined });
  };
  return (
    <div className="grid flex-1 grid-cols-1 lg:grid-cols-[23rem_minmax(0,1fr)]">
      <div className="order-2 border-rule lg:order-1 lg:border-r">
        {above}
        <Ledger
          next={<OpenLetters of={of} chosen={open.letter ?? 0} onOpen={(letter) => set({ letter })} />}
          history={history}
          only={only}
          open={open}
          onOnly={(show) => set({ ...asked, show })}
          onOpen={set}
        />
      </div>
      <div className="order-1 min-w-0 px-4 py-5 sm:px-8 lg:order-2">
        {open.incoming ? (
          <IncomingLetter key={open.incoming} id={open.incoming} />
        ) : open.letter ? (
          <FiledLetter key={open.letter} id={open.letter} onGone={() => history.refetch()} />
        ) : (
          history.data && empty
        )}
      </div>
    </div>
  );
}

/** What to open when nothing was chosen: the latest letter of either side. */
function latest(groups: { entries: { kind: string; letterId?: number; incomingId?: number }[] }[]): Open {
  for (const g of groups)
    for (const e of g.entries) {
      if (["replied", "received"].includes(e.kind) && e.incomingId) return { incoming: e.incomingId };
      if (e.kind === "sent" && e.letterId) return { letter: e.letterId };
    }
  return {};
}
