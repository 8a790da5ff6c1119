import { useQueryClient } from "@tanstack/react-query";
import { Check, Plus, X } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { ProblemText } from "../../components/ProblemText";
import { AccountDialog } from "./AccountDialog";
import { SigningDialog } from "./SigningDialog";

type Account = Schemas["AccountOut"];

/** The mail servers that letters go through, each tried out with one press. */
export function Accounts() {
  const list = $api.useQuery("get", "/api/accounts");
  const world = $api.useQuery("get", "/api/post-office-world");
  const [editing, setEditing] = useState<Account | "new" | null>(null);
  const [signing, setSigning] = useState<Account | null>(null);
  return (
    <section aria-label="Mail servers" className="border border-rule bg-sheet">
      <div className="flex items-center justify-between border-b border-rule px-4 py-3 sm:px-6">
        <h2 className="font-serif text-lg font-semibold">Mail servers</h2>
        <Button onClick={() => setEditing("new")}>
          <Plus size={15} aria-hidden /> Add a mail server
        </Button>
      </div>
      <ProblemText error={list.error} />
      {list.data?.length === 0 && (
        <p className="px-4 py-4 text-ink-soft sm:px-6">
          {world.data?.open
            ? "All letters go to the built-in post office, and nobody outside receives them. Add a mail server to send real email."
            : "Letters go to the mail server set when the program started. A server you add here replaces it."}
        </p>
      )}
      <ul>
        {list.data?.map((a) => (
          <Line key={a.id} account={a} onEdit={() => setEditing(a)} onSign={() => setSigning(a)} />
        ))}
      </ul>
      {editing && <AccountDialog first={editing === "new" ? null : editing} onClose={() => setEditing(null)} />}
      {signing && <SigningDialog account={signing} onClose={() => setSigning(null)} />}
    </section>
  );
}

function Line({ account: a, onEdit, onSign }: { account: Account; onEdit: () => void; onSign: () => void }) {
  const queries = useQueryClient();
  const [steps, setSteps] = useState<Schemas["TestStep"][] | null>(null);
  const [busy, setBusy] = useState(false);
  const path = { params: { path: { id: a.id } } };
  const test = async () => {
    setBusy(true);
    const { data, error } = await api.POST("/api/accounts/{id}/test", path).catch(noAnswer);
    setBusy(false);
    if (data) setSteps(data);
    else toast.error(wordsOf(error));
  };
  const remove = async () => {
    const { error } = await api.DELETE("/api/accounts/{id}", path).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    const fresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/accounts"] });
    const back = async () => {
      const { error: problem } = await api.POST("/api/accounts/{id}/put-back", path).catch(noAnswer);
      if (problem) toast.error(wordsOf(problem));
      await fresh();
    };
    toast.success(`${a.name} was removed.`, { action: { label: "Undo", onClick: back } });
    await fresh();
  };
  return (
    <li className="border-b border-rule px-4 py-2 last:border-b-0 sm:px-6">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <span className="min-w-0">
          <span className="block font-serif text-[1.05rem] font-medium">{a.name}</span>
          <span className="block text-sm break-words text-ink-soft">
            {a.server.host}:{a.server.port} · {a.addresses.length > 0 ? a.addresses.join(", ") : "all addresses"}
            {a.perDay > 0 && ` · ${a.perDay} per day at most`}
          </span>
        </span>
        <span className="-ml-1 flex flex-wrap gap-x-2">
          <Button look="quiet" className="px-1! text-sm" disabled={busy} onClick={test}>
            {busy ? "Testing …" : "Test connection"}
          </Button>
          <Button look="quiet" className="px-1! text-sm" onClick={onEdit}>
            Change
          </Button>
          <Button look="quiet" className="px-1! text-sm" onClick={onSign}>
            {a.record.name ? "Signature key" : "Sign letters"}
          </Button>
          <Button look="quiet" className="px-1! text-sm" onClick={remove}>
            Remove
          </Button>
        </span>
      </div>
      {a.mailboxSaid && <p className="text-sm text-stop">The mailbox could not be read: {a.mailboxSaid}</p>}
      {steps && (
        <ol aria-label={`Test of ${a.name}`} className="mt-1 text-sm">
          {steps.map((s) => (
            <li key={s.name} className="flex items-baseline gap-2">
              {s.ok ? (
                <Check size={14} className="shrink-0 text-ok" aria-label="done" />
              ) : (
                <X size={14} className="shrink-0 text-stop" aria-label="failed" />
              )}
              <span>
                {s.name}
                {s.said && <span className="text-ink-soft">: {s.said}</span>}
                {s.remedy && <span className="block text-stop">{s.remedy}</span>}
              </span>
            </li>
          ))}
          {steps.every((s) => s.ok) && <li className="text-ok">This server works.</li>}
        </ol>
      )}
    </li>
  );
}
