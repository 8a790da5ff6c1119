import { useState } from "react";
import { $api } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";

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

/** Asks for the language of a template whose words are too few to tell it. */
export function AskLanguage({ onChosen, onClose }: { onChosen: (language: string) => void; onClose: () => void }) {
  const languages = $api.useQuery("get", "/api/languages", {}, { staleTime: Infinity }).data ?? [];
  const [language, setLanguage] = useState("");
  return (
    <Modal
      title="Which language is it written in?"
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" disabled={!language} onClick={() => onChosen(language)}>
          Make ready
        </Button>
      }
    >
      <p className="mb-3">
        There are too few words to tell. Dates and amounts are written in the language of the template, whoever reads
        it.
      </p>
      <select
        aria-label="Language of the template"
        value={language}
        onChange={(e) => setLanguage(e.target.value)}
        className="border-b border-rule-strong bg-transparent py-0.5 outline-none focus:border-main"
      >
        <option value="">Choose a language</option>
        {languages.map((l) => (
          <option key={l.code} value={l.code}>
            {l.name}
          </option>
        ))}
      </select>
    </Modal>
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
