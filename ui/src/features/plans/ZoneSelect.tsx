type Props = { label: string; none: string; value: string; name?: string; onChange?: (zone: string) => void };

const zones = Intl.supportedValuesOf("timeZone");

/** A time zone of the tz database. */
export function ZoneSelect({ label, none, value, name, onChange }: Props) {
  return (
    <label className="block">
      <span className="block text-sm text-ink-soft">{label}</span>
      <select
        name={name}
        {...(onChange ? { value, onChange: (e) => onChange(e.target.value) } : { defaultValue: value })}
        className="block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main"
      >
        <option value="">{none}</option>
        {value && !zones.includes(value) && <option>{value}</option>}
        {zones.map((z) => (
          <option key={z} value={z}>
            {z.replaceAll("_", " ")}
          </option>
        ))}
      </select>
    </label>
  );
}
