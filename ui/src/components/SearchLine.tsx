import type { Ref } from "react";

type Props = {
  ref?: Ref<HTMLInputElement>;
  label: string;
  hint: string;
  value: string;
  onChange: (value: string) => void;
  onOpen?: () => void;
};

/** The search above a list: Enter opens what is chosen, ↓ and Esc go back to the list. */
export function SearchLine({ ref, label, hint, value, onChange, onOpen }: Props) {
  return (
    <input
      ref={ref}
      type="search"
      aria-label={label}
      placeholder={hint}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === "Enter") onOpen?.();
        if (e.key === "ArrowDown" || e.key === "Escape") e.currentTarget.blur();
      }}
      className="min-w-44 flex-1 border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main sm:max-w-80"
    />
  );
}
