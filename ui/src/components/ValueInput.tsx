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
  const byKeys = useRef(false);
  const [wrong, setWrong] = useState("");
  const give = (now = typed) => {
    given.current = true;
    onDone(now);
  };
  const leave = () => {
    if (!onCancel || given.current || busy) return;
    if (typed === value) onCancel();
    else give();
  };
  const cancel = () => {
    given.current = true;
    onCancel?.();
  };
  /** A day that is half typed, or that no month has, is empty for the browser: it must not count as cleared. */
  const readable = (input: HTMLInputElement) => {
    if (!input.validity.badInput) return true;
    setWrong("That is no whole date. The old value stays until you finish it, or press Esc.");
    return false;
  };
  const take = (now: string) => {
    given.current = false;
    setTyped(now);
    onTyped?.(now);
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
        onPointerDown={() => {
          byKeys.current = false;
        }}
        onBlur={leave}
        onKeyDown={(e) => {
          byKeys.current = true;
          if (e.key === "Escape") cancel();
          if (e.key === "Enter" && typed !== value) {
            e.preventDefault();
            give();
          }
        }}
        onChange={(e) => {
          take(e.target.value);
          // With the keys one goes past others to the one that is meant; Enter or leaving takes it.
          if (!byKeys.current) give(e.target.value);
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
    <span className="block">
      <input
        aria-label={label}
        aria-invalid={wrong !== ""}
        className={look}
        type={type === "date" ? "date" : "text"}
        inputMode={type === "number" ? "decimal" : undefined}
        placeholder={type === "money" ? "12500.00 EUR" : undefined}
        value={typed}
        disabled={busy}
        // biome-ignore lint/a11y/noAutofocus: the field was opened to be typed in
        autoFocus={autoFocus}
        onChange={(e) => {
          setWrong("");
          take(e.target.value);
        }}
        onBlur={(e) => {
          if (readable(e.currentTarget)) leave();
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            e.preventDefault();
            if (readable(e.currentTarget)) give();
          }
          if (e.key === "Escape") cancel();
        }}
      />
      {wrong && (
        <span role="alert" className="block text-sm text-stop">
          {wrong}
        </span>
      )}
    </span>
  );
}
