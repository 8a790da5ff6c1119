import { X } from "lucide-react";
import { useState } from "react";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";

export type Address = Schemas["Address"];

type Props = { label: string; value: Address[]; onChange: (value: Address[]) => void };

/** A list of addresses: typed, completed, or pasted in whatever form they come. */
export function AddressLine({ label, value, onChange }: Props) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const [problem, setProblem] = useState("");
  const known = $api.useQuery(
    "get",
    "/api/addresses",
    { params: { query: { q: text } } },
    { enabled: text.trim().length > 1, staleTime: 10_000 },
  );
  const offered = text.trim().length > 1 ? (known.data ?? []) : [];
  const id = `addresses-${label}`;

  const add = (list: Address[]) => {
    onChange([...value, ...list.filter((a) => !value.some((v) => v.email.toLowerCase() === a.email.toLowerCase()))]);
  };
  const read = async (words: string) => {
    if (!words.trim()) return;
    const { data, error } = await api.POST("/api/addresses/read", { body: { text: words } }).catch(noAnswer);
    if (!data) return setProblem(wordsOf(error));
    add(data.found);
    setText(data.rest.join(", "));
    setProblem(data.rest.length > 0 ? "This isn’t an email address. Complete it or delete it." : "");
  };
  const take = (k: Schemas["KnownAddress"]) => {
    add([{ name: k.name, email: k.email }]);
    setText("");
    setAt(0);
  };

  return (
    <div className="mb-4">
      <label className="text-sm text-ink-soft" htmlFor={id}>
        {label}
      </label>
      <div className="flex flex-wrap items-center gap-1.5 border-b border-rule-strong py-1 focus-within:border-main">
        {value.map((a) => (
          <span key={a.email} className="flex items-center gap-1 rounded-sm bg-main-soft px-2 py-0.5 text-sm">
            <span title={a.email}>{a.name || a.email}</span>
            <button
              type="button"
              aria-label={`Remove ${a.email} from ${label}`}
              onClick={() => onChange(value.filter((v) => v !== a))}
            >
              <X size={13} aria-hidden />
            </button>
          </span>
        ))}
        <input
          id={id}
          role="combobox"
          aria-expanded={offered.length > 0}
          aria-controls={`${id}-list`}
          autoComplete="off"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setProblem("");
            setAt(0);
          }}
          onPaste={(e) => {
            const pasted = e.clipboardData.getData("text/plain");
            if (!pasted.includes("@")) return;
            e.preventDefault();
            void read(`${text}${pasted}`);
          }}
          onBlur={() => read(text)}
          onKeyDown={(e) => {
            const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
            if (by && offered.length > 0) {
              e.preventDefault();
              setAt((at + by + offered.length) % offered.length);
            } else if (e.key === "Enter" || ((e.key === "," || e.key === ";") && text.includes("@"))) {
              e.preventDefault();
              const k = offered[at];
              if (k && e.key === "Enter" && !text.includes("@")) take(k);
              else void read(text);
            } else if (e.key === "Backspace" && !text) onChange(value.slice(0, -1));
          }}
          className="min-w-40 flex-1 bg-transparent outline-none"
        />
      </div>
      <div id={`${id}-list`} role="listbox" aria-label={`Addresses for ${label}`} className="empty:hidden">
        {offered.map((k, i) => (
          <div
            key={k.email}
            role="option"
            tabIndex={-1}
            aria-selected={i === at}
            onMouseDown={(e) => {
              e.preventDefault();
              take(k);
            }}
            className={`cursor-pointer px-2 py-1 text-sm ${i === at ? "bg-main-soft" : ""}`}
          >
            <b className="font-serif">{k.name || k.email}</b> <span className="text-ink-soft">{k.email}</span>{" "}
            <span className="text-ink-soft">· {k.who}</span>
          </div>
        ))}
      </div>
      {problem && (
        <p role="alert" className="mt-1 text-sm text-stop">
          {problem}
        </p>
      )}
    </div>
  );
}
