import { languages } from "./words";

/** In which language the values of a template are written. */
export function LanguageSelect({
  value,
  disabled,
  onChange,
}: {
  value: string;
  disabled: boolean;
  onChange: (v: string) => void;
}) {
  const known = languages.some(([code]) => code === value);
  return (
    <label className="flex items-baseline gap-2 text-sm">
      <span className="text-ink-soft">Dates and amounts in</span>
      <select
        value={value}
        disabled={disabled}
        onChange={(e) => onChange(e.target.value)}
        className="border-b border-rule-strong bg-transparent py-0.5 outline-none focus:border-main"
      >
        {languages.map(([code, name]) => (
          <option key={code} value={code}>
            {name}
          </option>
        ))}
        {!known && <option value={value}>{value}</option>}
      </select>
    </label>
  );
}
