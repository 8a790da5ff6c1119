import { $api } from "../../api/client";
import { Input } from "../../components/Input";
import type { Timing } from "./words";

const line = "block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main";

type Props = { when: Timing; first: boolean; onChange: (when: Timing) => void };

/** When a step comes: how long after the one before it, at what hour, on whose clock. */
export function TimingFields({ when, first, onChange }: Props) {
  const countries = $api.useQuery("get", "/api/holiday-countries", {}, { staleTime: Number.POSITIVE_INFINITY }).data;
  const set = (part: Partial<Timing>) => onChange({ ...when, ...part });
  const atOnce = when.at === "atonce";
  const hour = atOnce ? "atonce" : when.at ? "at" : "morning";
  return (
    <>
      <div className="grid grid-cols-2 gap-x-5 gap-y-3 sm:grid-cols-4">
        <Input
          label={first ? "Days after the start" : "Days after the step before"}
          type="number"
          min={0}
          max={365}
          disabled={atOnce}
          value={String(when.days)}
          onChange={(e) => set({ days: Math.max(0, Math.min(365, Math.round(Number(e.target.value)))) })}
        />
        <label className="block">
          <span className="block text-sm text-ink-soft">Counted in</span>
          <select
            value={when.working ? "working" : "days"}
            disabled={atOnce}
            onChange={(e) => set({ working: e.target.value === "working" })}
            className={line}
          >
            <option value="working">working days</option>
            <option value="days">days</option>
          </select>
        </label>
        <label className="block">
          <span className="block text-sm text-ink-soft">At</span>
          <select
            value={hour}
            onChange={(e) => {
              const to = e.target.value;
              if (to === "atonce") set({ at: "atonce", days: 0 });
              else set({ at: to === "at" ? "14:00" : "" });
            }}
            className={line}
          >
            <option value="morning">9 in the morning</option>
            <option value="at">another time</option>
            <option value="atonce">once, right after</option>
          </select>
        </label>
        {hour === "at" && (
          <Input
            label="Time"
            type="time"
            value={when.at ?? ""}
            onChange={(e) => {
              if (e.target.value) set({ at: e.target.value.slice(0, 5) });
            }}
          />
        )}
      </div>
      <details className="mt-2" open={!!(when.clock || when.free || when.country)}>
        <summary className="cursor-pointer text-sm text-main">Clock, days off and holidays</summary>
        <div className="mt-2 grid gap-x-5 gap-y-3 sm:grid-cols-3">
          <label className="block">
            <span className="block text-sm text-ink-soft">Whose clock</span>
            <select
              value={when.clock ?? ""}
              onChange={(e) => set({ clock: e.target.value as "" | "mine" })}
              className={line}
            >
              <option value="">the recipient’s</option>
              <option value="mine">mine</option>
            </select>
          </label>
          <label className="block">
            <span className="block text-sm text-ink-soft">If it falls on a day off</span>
            <select
              value={when.free ?? ""}
              onChange={(e) => set({ free: e.target.value as "" | "before" | "anyway" })}
              className={line}
            >
              <option value="">next working day</option>
              <option value="before">the working day before</option>
              <option value="anyway">that day anyway</option>
            </select>
          </label>
          <label className="block">
            <span className="block text-sm text-ink-soft">Public holidays of</span>
            <select value={when.country ?? ""} onChange={(e) => set({ country: e.target.value })} className={line}>
              <option value="">{when.clock === "mine" ? "my country" : "the recipient’s country"}</option>
              <option value="none">no country</option>
              {countries?.map((c) => (
                <option key={c.code} value={c.code}>
                  {c.name}
                </option>
              ))}
            </select>
          </label>
        </div>
      </details>
    </>
  );
}
