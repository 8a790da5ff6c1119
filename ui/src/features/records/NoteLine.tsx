import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { useUnsaved } from "../../app/unsaved";
import { Button } from "../../components/Button";
import type { RecordOf } from "./Taken";

type What = "call" | "visit" | "note";

/** A line on which a call, a visit or a note is written into the history. */
export function NoteLine({ kind, id }: Pick<RecordOf, "kind" | "id">) {
  const queries = useQueryClient();
  const [what, setWhat] = useState<What>("call");
  const [text, setText] = useState("");
  useUnsaved(text.trim() !== "", "this note");
  const fresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/history"] });
  const { write, busy, problem } = useWrite(
    () => api.POST("/api/records/{kind}/{id}/notes", { params: { path: { kind, id } }, body: { what, text } }),
    async (made) => {
      const written = text;
      setText("");
      await fresh();
      const undo = async () => {
        const { error } = await api.DELETE("/api/notes/{id}", { params: { path: { id: made.id } } }).catch(noAnswer);
        if (error) return void toast.error(wordsOf(error));
        setText((now) => now || written);
        await fresh();
      };
      toast.success("Written down.", { action: { label: "Undo", onClick: () => void undo() } });
    },
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (text.trim()) void write();
  };
  return (
    <form onSubmit={submit} aria-label="Write down" className="border-b border-rule px-4 py-3 sm:px-6">
      <div className="flex items-start gap-3">
        <select
          aria-label="What it was"
          value={what}
          onChange={(e) => setWhat(e.target.value as What)}
          className="border-b border-rule-strong bg-transparent py-1 text-sm outline-none focus:border-main"
        >
          <option value="call">Call</option>
          <option value="visit">Visit</option>
          <option value="note">Note</option>
        </select>
        <textarea
          aria-label="What was said"
          placeholder="Write down a call, a visit, a note"
          rows={text.includes("\n") || text.length > 40 ? 3 : 1}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
              e.preventDefault();
              submit(e);
            }
          }}
          className="min-w-0 flex-1 resize-none border-b border-rule-strong bg-transparent py-1 text-sm outline-none focus:border-main"
        />
        {text.trim() && (
          <Button type="submit" disabled={busy} className="text-sm">
            Write down
          </Button>
        )}
      </div>
      {problem && (
        <p role="alert" className="mt-1 text-sm text-stop">
          {problem}
        </p>
      )}
    </form>
  );
}
