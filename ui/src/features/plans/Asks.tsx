import type { Schemas } from "../../api/client";

export type Fills = Record<string, string>;

const line = "block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main";

/** The blanks of a letter that is to come: answered now, or left for the day on which it goes. */
export function Asks({
  asks,
  fills,
  onFills,
}: {
  asks: Schemas["Ask"][];
  fills: Fills;
  onFills: (fills: Fills) => void;
}) {
  return (
    <div className="mt-2 grid gap-x-5 gap-y-2 sm:grid-cols-2">
      {asks.map((a) => {
        if (a.kind === "file")
          return (
            <p key={a.path} className="text-sm text-ink-soft">
              {a.label}: choose the file when the letter waits for you.
            </p>
          );
        const set = (value: string) => onFills({ ...fills, [a.path]: value });
        const id = `ask-${a.path}`;
        const value = fills[a.path] ?? "";
        const type = a.kind === "date" ? "date" : a.kind === "number" ? "number" : "text";
        return (
          <div key={a.path} className={a.kind === "long" ? "sm:col-span-2" : ""}>
            <label htmlFor={id} className="block text-sm text-advice">
              {a.label}
              {a.optional && " (optional)"}
            </label>
            {a.choices.length > 0 ? (
              <select id={id} value={value} onChange={(e) => set(e.target.value)} className={line}>
                <option value="">later</option>
                {a.choices.map((c) => (
                  <option key={c}>{c}</option>
                ))}
              </select>
            ) : a.kind === "long" ? (
              <textarea
                id={id}
                rows={2}
                value={value}
                placeholder={a.hint}
                onChange={(e) => set(e.target.value)}
                className="block w-full border border-rule-strong bg-sheet px-2 py-1 outline-none focus:border-main"
              />
            ) : (
              <input
                id={id}
                type={type}
                value={value}
                placeholder={a.hint}
                onChange={(e) => set(e.target.value)}
                className={line}
              />
            )}
          </div>
        );
      })}
    </div>
  );
}
