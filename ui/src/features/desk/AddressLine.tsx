import { X } from "lucide-react";
import { type Ref, useImperativeHandle, useRef, useState } from "react";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";

export type Address = Schemas["Address"];

/** What a dialog asks of a line before it stores: what is still being typed belongs to it. */
export type AddressHandle = {
  /** Gives the addresses with what was typed last, or null when that is no address, which is said at the line. */
  settle: () => Promise<Address[] | null>;
};

type Props = { label: string; value: Address[]; onChange: (value: Address[]) => void; ref?: Ref<AddressHandle> };

const wholeAddress = /^[^\s@<>,;]+@[^\s@<>,;]+\.[^\s@<>,;.]{2,}$/;

/** A list of addresses: typed, completed, or pasted in whatever form they come. */
export function AddressLine({ label, value, onChange, ref }: Props) {
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

  const latest = useRef(value);
  latest.current = value;
  const moved = useRef(false); // to a suggestion, by key
  const reading = useRef<Promise<boolean> | null>(null);
  const add = (list: Address[]) => {
    const had = latest.current;
    latest.current = [...had, ...list.filter((a) => !had.some((v) => v.email.toLowerCase() === a.email.toLowerCase()))];
    onChange(latest.current);
  };
  const readNow = async (words: string): Promise<boolean> => {
    const { data, error } = await api.POST("/api/addresses/read", { body: { text: words } }).catch(noAnswer);
    if (!data) {
      setProblem(wordsOf(error));
      return false;
    }
    add(data.found);
    setText(data.rest.join(", "));
    setProblem(data.rest.length > 0 ? "This isn’t an email address. Complete it or delete it." : "");
    return data.rest.length === 0;
  };
  /** Takes what was typed as addresses; tells whether all of it is. */
  const read = async (words: string): Promise<boolean> => {
    if (reading.current) return reading.current;
    if (!words.trim()) return true;
    reading.current = readNow(words);
    const done = await reading.current;
    reading.current = null;
    return done;
  };
  useImperativeHandle(ref, () => ({ settle: async () => ((await read(text)) ? latest.current : null) }));
  const take = (k: Schemas["KnownAddress"]) => {
    add([{ name: k.name, email: k.email }]);
    setText("");
    setProblem("");
    setAt(0);
    moved.current = false;
  };
  /**
   * Enter: the suggestion that is highlighted. Words with an address in them are taken as they are, unless the writer went
   * to a suggestion or the address is only the beginning of one. What is still looked up is waited for.
   */
  const enter = async () => {
    const typed = text.trim().toLowerCase();
    const list = known.isFetching && typed.length > 1 ? ((await known.refetch()).data ?? []) : offered;
    const k = list[Math.min(at, list.length - 1)];
    const begun = k && !wholeAddress.test(typed) && k.email.toLowerCase().startsWith(typed);
    if (k && (moved.current || !typed.includes("@") || begun)) take(k);
    else void read(text);
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
            moved.current = false;
          }}
          onPaste={(e) => {
            const pasted = e.clipboardData.getData("text/plain");
            if (!pasted.includes("@")) return;
            e.preventDefault();
            void read(`${text}${pasted}`);
          }}
          onBlur={() => void read(text)}
          onKeyDown={(e) => {
            const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
            if (by && offered.length > 0) {
              e.preventDefault();
              moved.current = true;
              setAt((at + by + offered.length) % offered.length);
            } else if (e.key === "Enter" && !e.ctrlKey && !e.metaKey && text.trim()) {
              e.preventDefault();
              void enter();
            } else if ((e.key === "," || e.key === ";") && text.includes("@")) {
              e.preventDefault();
              void read(text);
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
