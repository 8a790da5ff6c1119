import type { ButtonHTMLAttributes } from "react";

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { look?: "main" | "plain" | "quiet" };

const looks = {
  main: "border-main bg-main text-on-main font-semibold disabled:border-rule-strong disabled:bg-rule disabled:text-ink-soft",
  plain: "border-rule-strong bg-sheet text-ink hover:border-main disabled:text-ink-soft",
  quiet: "border-transparent text-main underline-offset-4 hover:underline disabled:text-ink-soft",
};

export function Button({ look = "plain", className = "", type = "button", ...rest }: Props) {
  return (
    <button
      type={type}
      data-look={look}
      className={`inline-flex min-h-8 items-center gap-1.5 rounded-sm border px-3 py-1 whitespace-nowrap disabled:cursor-not-allowed ${looks[look]} ${className}`}
      {...rest}
    />
  );
}
