import { useRef, useState } from "react";

type Props = {
  label: string;
  type: string;
  choices: string[];
  value: string;
  busy?: boolean;
  autoFocus?: boolean;
  onDone: (value: string) => void;
  /** Told with every key. */
  onTyped?: (value: string) => void;
  onCancel?: () => void;
};

/** Takes one value of a field in canonical form. Enter is done, Esc leaves it as it was; in a text of several lines Ctrl+Enter is done. */
export function ValueInput({
  label,
  type,
  choices,
  value,
  busy = false,
  autoFocus = true,
  onDone,
  onTyped,
  onCancel,
}: Props) {
  const [typed, setTyped] = useState(value);
  // A field that is switched off while it is stored loses the focus: that gives its value no second time.
  const given = useRef(false);
  const give = () => {
    given.current = true;
    onDone(typed);
  };
  const look = "w-full border-b border-main bg-transparent outline-none";
  const list = type === "yesno" ? ["true", "false"] : choices;
  if (list.length > 0) {
    return (
      <select
        aria-label={label}
        className={look}
        value={typed}
        disabled={busy}
        // biome-ignore lint/a11y/noAutofocus: the field was opened to be typed in
        autoFocus={autoFocus}
        onBlur={onCancel}
        onKeyDown={(e) => e.key === "Escape" && onCancel?.()}
        onChange={(e) => {
          setTyped(e.target.value);
          onDone(e.target.value);
        }}
      >
        <option value="">—</option>
        {list.map((c) => (
          <option key={c} value={c}>
            {type === "yesno" ? (c === "true" ? "yes" : "no") : c}
          </option>
        ))}
      </select>
    );
  }
  const leave = () => {
    if (!onCancel || given.current || busy) return;
    if (typed === value) onCancel();
    else give();
  };
  const cancel = () => {
    given.current = true;
    onCancel?.();
  };
  const take = (now: string) => {
    given.current = false;
    setTyped(now);
    onTyped?.(now);
  };
  if (type === "long" || value.includes("\n"))
    return (
      <textarea
        aria-label={label}
        className={look}
        rows={Math.min(8, Math.max(3, typed.split("\n").length))}
        value={typed}
        disabled={busy}
        // biome-ignore lint/a11y/noAutofocus: the field was opened to be typed in
        autoFocus={autoFocus}
        onChange={(e) => take(e.target.value)}
        onBlur={leave}
        onKeyDown={(e) => {
          if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
            e.preventDefault();
            e.stopPropagation();
            give();
          }
          if (e.key === "Escape") cancel();
        }}
      />
    );
  return (
    <input
      aria-label={label}
      className={look}
      type={type === "date" ? "date" : "text"}
      inputMode={type === "number" ? "decimal" : undefined}
      placeholder={type === "money" ? "12500.00 EUR" : undefined}
      value={typed}
      disabled={busy}
      // biome-ignore lint/a11y/noAutofocus: the field was opened to be typed in
      autoFocus={autoFocus}
      onChange={(e) => take(e.target.value)}
      onBlur={leave}
      onKeyDown={(e) => {
        if (e.key === "Enter") {
          e.preventDefault();
          give();
        }
        if (e.key === "Escape") cancel();
      }}
    />
  );
}
