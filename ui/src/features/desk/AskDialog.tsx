import { Plus, X } from "lucide-react";
import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { Tabs } from "../../components/Tabs";
import type { Letter } from "./useDraft";

type Question = Schemas["Question"];
export type Sheet = Schemas["Sheet"];

/** Whom a question is for. */
type Asked = Pick<Letter, "person" | "deal" | "dealId"> & { personKind?: Letter["personKind"] };

type Props = { letter: Asked; onAsk: (sheet: Sheet) => Promise<string>; onClose: () => void };

const blank: Question = { text: "", answers: [] };

/** Asks the reader: one question with answers to click, or a short list of questions on a page. */
export function AskDialog({ letter, onAsk, onClose }: Props) {
  const [kind, setKind] = useState<"click" | "list">("click");
  const [title, setTitle] = useState("");
  const [list, setList] = useState<Question[]>([{ text: "", answers: ["Yes", "No"] }]);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const fields = ($api.useQuery("get", "/api/fields").data ?? []).filter(
    (f) =>
      f.own &&
      (["person", ...(letter.personKind ? [letter.personKind] : [])].includes(f.record) ||
        (f.record === "deal" && letter.dealId)) &&
      !f.path.startsWith("deal.main_contact."),
  );
  const shown = kind === "click" ? list.slice(0, 1) : list;
  const change = (i: number, part: Partial<Question>) => setList(list.map((q, k) => (k === i ? { ...q, ...part } : q)));
  const ask = async () => {
    if (kind === "list" && !title.trim()) return setProblem("Enter the text of the link to the questions.");
    setBusy(true);
    const said = await onAsk({ questions: shown, ...(kind === "list" && { title }) });
    setBusy(false);
    if (said) setProblem(said);
    else onClose();
  };
  return (
    <Modal
      title={`Ask ${letter.person}`}
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" disabled={busy} onClick={ask}>
          Insert into the letter
        </Button>
      }
    >
      <Tabs
        label="How they answer"
        choices={[
          ["click", "One question, answered with one click"],
          ["list", "A few questions on a page"],
        ]}
        value={kind}
        onChange={setKind}
      />
      <p className="mt-2 mb-4 text-sm text-ink-soft">
        {kind === "click"
          ? "The answers appear in the letter as links. A page thanks them for replying."
          : "The letter links to a short page with the questions."}{" "}
        What comes back stands in the history of {letter.person}
        {letter.deal && ` and of ${letter.deal}`}.
      </p>
      {kind === "list" && (
        <Input
          label="Link text"
          value={title}
          placeholder="Three short questions about your room"
          onChange={(e) => setTitle(e.target.value)}
          className="mb-4"
        />
      )}
      {shown.map((q, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the questions have no other name
        <fieldset key={i} className="mb-4 border-l-3 border-rule-strong pl-4">
          <legend className="sr-only">Question {i + 1}</legend>
          <div className="flex items-end gap-2">
            <Input
              label={shown.length > 1 ? `Question ${i + 1}` : "Question"}
              value={q.text}
              onChange={(e) => change(i, { text: e.target.value })}
              className="flex-1"
            />
            {shown.length > 1 && (
              <Button look="quiet" className="px-1!" onClick={() => setList(list.filter((_, k) => k !== i))}>
                <X size={15} aria-hidden />
                <span className="sr-only">Take out question {i + 1}</span>
              </Button>
            )}
          </div>
          <div className="mt-2 flex flex-wrap items-end gap-3">
            {q.answers.map((a, k) => (
              <Input
                // biome-ignore lint/suspicious/noArrayIndexKey: the answers have no other name
                key={k}
                label={`Answer ${k + 1}`}
                value={a}
                onChange={(e) => change(i, { answers: q.answers.map((x, n) => (n === k ? e.target.value : x)) })}
                className="w-32"
              />
            ))}
            {q.answers.length < 5 && (
              <Button
                look="quiet"
                className="px-1! text-sm"
                onClick={() => change(i, { answers: [...q.answers, ...(q.answers.length ? [""] : ["Yes", "No"])] })}
              >
                <Plus size={14} aria-hidden /> {q.answers.length ? "Another answer" : "Answers to choose from"}
              </Button>
            )}
          </div>
          {fields.length > 0 && (
            <label className="mt-2 block text-sm">
              <span className="text-ink-soft">Also save the answer to </span>
              <select
                value={q.field ?? ""}
                onChange={(e) => change(i, { field: e.target.value })}
                className="border-b border-rule-strong bg-sheet py-0.5"
              >
                <option value="">no field</option>
                {fields.map((f) => (
                  <option key={f.path} value={f.path}>
                    {f.record === "deal" ? `${f.label} of the deal` : f.label}
                  </option>
                ))}
              </select>
            </label>
          )}
        </fieldset>
      ))}
      {kind === "list" && list.length < 8 && (
        <Button onClick={() => setList([...list, blank])}>
          <Plus size={15} aria-hidden /> Another question
        </Button>
      )}
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
    </Modal>
  );
}
