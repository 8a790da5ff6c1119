/** A choice in the line of a list's filters; the first one filters nothing. */
export function Select<T extends string>(props: {
  label: string;
  value: T;
  choices: readonly (readonly [value: T, name: string])[];
  onChange: (value: T) => void;
}) {
  const first = props.value === props.choices[0]?.[0];
  return (
    <select
      aria-label={props.label}
      value={props.value}
      onChange={(e) => props.onChange(e.target.value as T)}
      className={`max-w-60 border-b border-rule-strong bg-transparent py-0.5 text-sm outline-none focus:border-main ${first ? "text-ink-soft" : "font-semibold text-main"}`}
    >
      {props.choices.map(([value, name]) => (
        <option key={value} value={value}>
          {name}
        </option>
      ))}
    </select>
  );
}
