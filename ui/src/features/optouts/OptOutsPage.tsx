import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { dayOf } from "../../components/time";

/** The addresses that nobody writes to any more, and why. */
export function OptOutsPage() {
  const [q, setQ] = useState("");
  const [adding, setAdding] = useState(false);
  const [again, setAgain] = useState<Schemas["OptOut"] | null>(null);
  const me = $api.useQuery("get", "/api/session").data;
  const list = $api.useQuery("get", "/api/opt-outs", { params: { query: { q } } }, { placeholderData: (d) => d });
  const mayLet = me?.may.editShared ?? false;
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-8 sm:px-6">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <h1 className="font-serif text-2xl font-semibold">Do not contact</h1>
        <SearchLine label="Search addresses" hint="Search addresses" value={q} onChange={setQ} />
        <Button className="ml-auto" onClick={() => setAdding(true)}>
          Add addresses
        </Button>
      </div>
      <p className="mb-4 text-sm text-ink-soft">
        Nothing is sent to these addresses, whoever’s record they are on. That includes letters already waiting in the
        outbox.
      </p>
      <ProblemText error={list.error} />
      {list.data?.length === 0 && (
        <p className="py-8 text-ink-soft">{q ? "No addresses match your search." : "Nobody has unsubscribed yet."}</p>
      )}
      <ul aria-label="Addresses" className="border-t border-rule bg-sheet empty:hidden">
        {list.data?.map((o) => (
          <li key={o.email} className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-3 py-1.5">
            <span className="min-w-0 flex-1 font-medium break-all">{o.email}</span>
            <span className="w-full text-sm text-ink-soft sm:w-72">
              {o.letterId ? <Link to={`/letters/${o.letterId}`}>{o.reason}</Link> : o.reason}
              {o.reportId && (
                <>
                  {" · "}
                  <Link className="underline" to={`/came/${o.reportId}`}>
                    the report
                  </Link>
                </>
              )}
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
  const { write, busy, problem } = useWrite(
    (form: FormData) =>
      api.POST("/api/opt-outs", { body: { text: String(form.get("text")), reason: String(form.get("reason")) } }),
    async ({ added, rest }) => {
      toast.success(`${plural(added, "address was", "addresses were")} added.`);
      if (rest.length > 0) toast.error(`No email address found in: ${rest.slice(0, 5).join(", ")}`);
      await queries.invalidateQueries();
      onClose();
    },
  );
  const add = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    void write(new FormData(event.currentTarget));
  };
  return (
    <Modal
      title="Add addresses"
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" type="submit" form="opt-outs" disabled={busy}>
          Add to the list
        </Button>
      }
    >
      <form id="opt-outs" onSubmit={add}>
        <label className="mb-4 block">
          <span className="block text-sm text-ink-soft">Paste addresses</span>
          <textarea
            name="text"
            rows={6}
            className="w-full border border-rule-strong bg-transparent p-2 outline-none focus:border-main"
          />
        </label>
        <Input label="Reason" name="reason" placeholder="asked by phone" />
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
  const allowed = async () => {
    const back = async () => {
      const { error } = await api.POST("/api/opt-outs/put-back", { body: { email } }).catch(noAnswer);
      if (error) return void toast.error(wordsOf(error));
      toast.success(`${email} is not contacted.`);
      await queries.invalidateQueries();
    };
    toast.success(`${email} can be contacted again.`, { action: { label: "Undo", onClick: () => void back() } });
    await queries.invalidateQueries();
    onClose();
  };
  const { write, busy, problem } = useWrite(
    () => api.POST("/api/opt-outs/again", { body: { email, reason } }),
    allowed,
  );
  return (
    <Modal
      title={`Allow letters to ${email}`}
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" disabled={busy} onClick={() => write()}>
          Allow letters again
        </Button>
      }
    >
      <p className="mb-4 text-sm text-ink-soft">
        Only do this if the person asked for it. The reason appears in their history.
      </p>
      <Input label="How they asked" value={reason} onChange={(e) => setReason(e.target.value)} />
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
    </Modal>
  );
}
