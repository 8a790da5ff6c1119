import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { SearchLine } from "../../components/SearchLine";
import { dayOf } from "../../components/time";

/** The addresses that nobody writes to any more, and why. */
export function OptOutsPage() {
  const [q, setQ] = useState("");
  const [adding, setAdding] = useState(false);
  const [again, setAgain] = useState<Schemas["OptOut"] | null>(null);
  const me = $api.useQuery("get", "/api/session").data;
  const list = $api.useQuery("get", "/api/opt-outs", { params: { query: { q } } }, { placeholderData: (d) => d });
  const mayLet = me?.role === "lead" || me?.role === "administrator";
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-8 sm:px-6">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <h1 className="font-serif text-2xl font-semibold">No more letters</h1>
        <SearchLine label="Search addresses" hint="Part of an address" value={q} onChange={setQ} />
        <Button className="ml-auto" onClick={() => setAdding(true)}>
          Write addresses down
        </Button>
      </div>
      <p className="mb-4 text-sm text-ink-soft">
        Nobody writes to these addresses, whoever has them in a record, also not with what waits in the outbox.
      </p>
      <ProblemText error={list.error} />
      {list.data?.length === 0 && (
        <p className="py-8 text-ink-soft">
          {q ? "No address holds that." : "Nobody has asked for no more letters yet."}
        </p>
      )}
      <ul aria-label="Addresses" className="border-t border-rule bg-sheet empty:hidden">
        {list.data?.map((o) => (
          <li key={o.email} className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-3 py-1.5">
            <span className="min-w-0 flex-1 font-medium break-all">{o.email}</span>
            <span className="w-full text-sm text-ink-soft sm:w-72">
              {o.letterId ? <Link to={`/letters/${o.letterId}`}>{o.reason}</Link> : o.reason}
              {o.by && ` · ${o.by}`}
            </span>
            <span className="text-sm text-ink-soft sm:w-24 sm:text-right">{dayOf(o.at)}</span>
            {mayLet && (
              <Button look="quiet" className="px-1! text-sm" onClick={() => setAgain(o)}>
                Again<span className="sr-only"> to {o.email}</span>
              </Button>
            )}
          </li>
        ))}
      </ul>
      {adding && <Add onClose={() => setAdding(false)} />}
      {again && <Again email={again.email} onClose={() => setAgain(null)} />}
    </div>
  );
}

function Add({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState("");
  const add = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const { data, error } = await api
      .POST("/api/opt-outs", { body: { text: String(form.get("text")), reason: String(form.get("reason")) } })
      .catch(noAnswer);
    if (!data) return setProblem(wordsOf(error));
    toast.success(`${data.added} ${data.added === 1 ? "address is" : "addresses are"} written down.`);
    if (data.rest.length > 0) toast.error(`There is no address in: ${data.rest.slice(0, 5).join(", ")}`);
    await queries.invalidateQueries();
    onClose();
  };
  return (
    <Modal
      title="Write addresses down"
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" type="submit" form="opt-outs">
          Write down
        </Button>
      }
    >
      <form id="opt-outs" onSubmit={add}>
        <label className="mb-4 block">
          <span className="block text-sm text-ink-soft">Addresses, pasted as they are</span>
          <textarea
            name="text"
            rows={6}
            className="w-full border border-rule-strong bg-transparent p-2 outline-none focus:border-main"
          />
        </label>
        <Input label="Reason" name="reason" placeholder="asked by telephone" />
        {problem && (
          <p role="alert" className="mt-3 text-stop">
            {problem}
          </p>
        )}
      </form>
    </Modal>
  );
}

function Again({ email, onClose }: { email: string; onClose: () => void }) {
  const queries = useQueryClient();
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState("");
  const let_ = async () => {
    const { error } = await api.POST("/api/opt-outs/again", { body: { email, reason } }).catch(noAnswer);
    if (error) return setProblem(wordsOf(error));
    toast.success(`${email} may be written to again.`);
    await queries.invalidateQueries();
    onClose();
  };
  return (
    <Modal
      title={`Write to ${email} again`}
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" onClick={let_}>
          Let it be written to
        </Button>
      }
    >
      <p className="mb-4 text-sm text-ink-soft">
        Only when the person asked for it. The reason stands in their history.
      </p>
      <Input label="How they asked for it" value={reason} onChange={(e) => setReason(e.target.value)} />
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
    </Modal>
  );
}
