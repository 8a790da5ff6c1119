import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { $api, api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { useUnsaved } from "../../app/unsaved";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { Accounts } from "./Accounts";
import { LeadFields } from "./LeadFields";

/** What holds for the whole workspace: measuring, the foot of letters, mail servers. */
export function SettingsPage() {
  const settings = $api.useQuery("get", "/api/settings");
  const me = $api.useQuery("get", "/api/session").data;
  if (settings.isPending) return <Loading />;
  if (settings.error)
    return (
      <div className="p-6">
        <ProblemText error={settings.error} />
      </div>
    );
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-10 sm:px-6">
      <h1 className="mb-4 font-serif text-2xl font-semibold">Settings</h1>
      {!me?.may.editSettings && <p className="mb-4 text-ink-soft">Only administrators can change these.</p>}
      <Workspace first={settings.data} off={!me?.may.editSettings} />
      {me?.may.editSettings && <Accounts />}
    </div>
  );
}

function Workspace({ first, off }: { first: Schemas["Settings"]; off: boolean }) {
  const queries = useQueryClient();
  const [s, setS] = useState(first);
  const [base, setBase] = useState(first);
  const { write, busy, problem } = useWrite(
    () => api.PUT("/api/settings", { body: s }),
    async () => {
      setBase(s); // as it was sent
      toast.success("Stored.");
      await queries.invalidateQueries();
    },
  );
  useUnsaved(s !== base, "the settings");
  const check = (key: "tracking" | "optOutLink" | "postalAddress", name: string, hint: string) => (
    <label className="flex items-baseline gap-2 py-1">
      <input
        type="checkbox"
        className="accent-main"
        checked={s[key]}
        onChange={(e) => setS({ ...s, [key]: e.target.checked })}
      />
      <span>
        {name}
        <span className="block text-sm text-ink-soft">{hint}</span>
      </span>
    </label>
  );
  return (
    <section aria-label="Letters" className="mb-8 border border-rule bg-sheet px-4 py-3 sm:px-6">
      <h2 className="mb-2 font-serif text-lg font-semibold">Letters</h2>
      <fieldset disabled={off}>
        {check(
          "tracking",
          "Track opens and clicks",
          "When off, nothing is tracked. You can also turn it off for one person, template or letter.",
        )}
        {check(
          "optOutLink",
          "Add an unsubscribe link to the footer",
          "Letters to a single reader always carry the unsubscribe header that email programs use.",
        )}
        {s.optOutLink && (
          <Input
            label="Link text"
            className="mb-2 ml-6 max-w-xl"
            value={s.optOutWords}
            onChange={(e) => setS({ ...s, optOutWords: e.target.value })}
          />
        )}
        {check(
          "postalAddress",
          "Add the team’s postal address to the footer",
          "Some countries require it. A team without an address can’t send anything then.",
        )}
        <h3 className="mt-4 mb-1 font-semibold">Rounds</h3>
        <label className="mb-2 flex flex-wrap items-baseline gap-x-2">
          Skip people a colleague wrote to in the last
          <input
            type="number"
            min={0}
            max={365}
            value={s.quietDays}
            onChange={(e) => setS({ ...s, quietDays: Math.max(0, Math.min(365, Math.round(Number(e.target.value)))) })}
            className="w-16 border-b border-rule-strong bg-transparent text-right outline-none focus:border-main"
          />
          days <span className="text-sm text-ink-soft">(0: nobody is skipped for it)</span>
        </label>
        <label className="mb-4 block max-w-xl">
          On what basis people may be written to
          <span className="block text-sm text-ink-soft">
            One on each line. Rounds ask for it where a record has none; leave it empty and they don’t.
          </span>
          <textarea
            rows={Math.max(3, s.grounds.length + 1)}
            value={s.grounds.join("\n")}
            onChange={(e) => setS({ ...s, grounds: e.target.value.split("\n") })}
            className="mt-1 w-full border border-rule-strong bg-sheet p-2 outline-none focus:border-main"
          />
        </label>
        <LeadFields to={s.leadFields ?? {}} onChange={(leadFields) => setS({ ...s, leadFields })} />
      </fieldset>
      {problem && (
        <p role="alert" className="mt-2 text-stop">
          {problem}
        </p>
      )}
      {!off && (
        <Button look="main" className="mt-3" disabled={busy} onClick={() => write()}>
          Save the settings
        </Button>
      )}
    </section>
  );
}
