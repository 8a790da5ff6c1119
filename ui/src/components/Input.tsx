import type { InputHTMLAttributes } from "react";

type Props = InputHTMLAttributes<HTMLInputElement> & { label: string; hint?: string; serif?: boolean };

/** A line to write on, under its label. */
export function Input({ label, hint, serif = false, className = "", ...rest }: Props) {
  return (
    <label className={`block ${className}`}>
      <span className="block text-sm text-ink-soft">{label}</span>
      <input
        className={`block w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main ${serif ? "font-serif text-lg" : "min-h-9"}`}
        {...rest}
      />
      {hint && <span className="block text-sm text-ink-soft">{hint}</span>}
    </label>
  );
}
