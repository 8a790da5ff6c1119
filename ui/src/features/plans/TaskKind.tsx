type Kind = "" | "call" | "visit" | "note";

/** What a task is about. */
export function TaskKind({ value, onChange }: { value: Kind; onChange: (kind: Kind) => void }) {
  return (
    <label className="block sm:max-w-52">
      <span className="block text-sm text-ink-soft">Kind of task</span>
      <select
        value={value}
        onChange={(e) => onChange(e.target.value as Kind)}
        className="block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main"
      >
        <option value="call">Call</option>
        <option value="visit">Visit</option>
        <option value="note">Note</option>
        <option value="">Something else</option>
      </select>
    </label>
  );
}
