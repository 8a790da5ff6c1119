import { $api } from "../../api/client";

type Props = {
  value: string;
  /** What the text is recognised to be, while nobody said it. */
  taken: string;
  disabled: boolean;
  onChange: (v: string) => void;
};

/** The language of a template: its dates and amounts are written in it. */
export function LanguageSelect({ value, taken, disabled, onChange }: Props) {
  const languages = $api.useQuery("get", "/api/languages", {}, { staleTime: Infinity }).data ?? [];
  const nameOf = (code: string) => languages.find((l) => l.code === code)?.name ?? variantOf(code);
  const known = value === "" || languages.some((l) => l.code === value);
  return (
    <label className="flex items-baseline gap-2 text-sm">
      <span className="text-ink-soft">Language</span>
      <select
        value={value}
        disabled={disabled}
        onChange={(e) => onChange(e.target.value)}
        className="min-w-0 border-b border-rule-strong bg-transparent py-0.5 outline-none focus:border-main"
      >
        <option value="">{taken ? `${nameOf(taken)} (recognised)` : "Recognised from the text"}</option>
        {languages.map((l) => (
          <option key={l.code} value={l.code}>
            {l.name}
          </option>
        ))}
        {!known && <option value={value}>{nameOf(value)}</option>}
      </select>
    </label>
  );
}

/** The name of a variant, such as "British English". */
function variantOf(code: string): string {
  try {
    return new Intl.DisplayNames("en", { type: "language" }).of(code) ?? code;
  } catch {
    return code;
  }
}
