import { useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { type FormEvent, useRef, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { useUnsaved, useWords } from "../../app/unsaved";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { sendsAtOnce, setSendsAtOnce } from "../desk/atOnce";
import { ZoneSelect } from "../plans/ZoneSelect";
import { FieldList } from "../templates/FieldList";
import { FormattedBody } from "../templates/FormattedBody";
import { Senders } from "./Senders";

/** What a user sets for the letters that they send: what letters say of them, signatures, the hold. */
export function MePage() {
  const me = $api.useQuery("get", "/api/session");
  const froms = $api.useQuery("get", "/api/me/from", {}, { refetchOnWindowFocus: false });
  if (!me.data || froms.isPending) return <Loading />;
  return (
    <div className="mx-auto max-w-3xl px-3 pt-4 pb-10 sm:px-6">
      <h1 className="mb-1 font-serif text-2xl font-semibold">My profile and signature</h1>
      <p className="mb-6 text-sm text-ink-soft">What your letters say about you, and how they are signed.</p>
      <Profile me={me.data} />
      <ProblemText error={froms.error} />
      {froms.data?.map((f) => (
        <Signature key={f.email} from={f} />
      ))}
      {me.data.may.editSenders && <Senders />}
    </div>
  );
}

function Profile({ me }: { me: Schemas["Me"] }) {
  const queries = useQueryClient();
  const fields = ($api.useQuery("get", "/api/fields").data ?? []).filter((f) => f.own && f.path.startsWith("sender."));
  const [problem, setProblem] = useState("");
  const { typed, onInput, settled } = useWords();
  useUnsaved(typed, "your profile");
  const store = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const text = (name: string) => String(form.get(name) ?? "").trim();
    const own = Object.fromEntries(fields.map((f) => [f.path, text(f.path)]));
    const [profile, hold] = await Promise.all([
      api
        .PUT("/api/me", {
          body: {
            phone: text("phone"),
            jobTitle: text("jobTitle"),
            bookingLink: text("bookingLink"),
            timeZone: text("timeZone"),
            country: text("country"),
            taskMail: form.has("taskMail"),
            own,
          },
        })
        .catch(noAnswer),
      api.PUT("/api/me/hold", { body: { seconds: Number(text("hold")) } }).catch(noAnswer),
    ]);
    const error = profile.error ?? hold.error;
    setProblem(error ? wordsOf(error) : "");
    if (error) return;
    settled();
    toast.success("Stored.");
    await queries.invalidateQueries();
  };
  return (
    <form onSubmit={store} onInput={onInput} className="mb-8 border border-rule bg-sheet px-5 py-4">
      <h2 className="mb-3 font-semibold">About me</h2>
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2">
        <Input label="Phone" name="phone" defaultValue={me.phone} />
        <Input label="Job title" name="jobTitle" defaultValue={me.jobTitle} />
        <Input
          label="Booking link"
          name="bookingLink"
          defaultValue={me.bookingLink}
          hint="Used by the merge field Booking link (sender)."
        />
        <Input
          label="Seconds to take back a letter after sending"
          name="hold"
          type="number"
          min={0}
          max={120}
          defaultValue={me.holdSeconds}
        />
        <ZoneSelect label="My time zone" name="timeZone" none="not set" value={me.timeZone} />
        <Input
          label="My country"
          name="country"
          defaultValue={me.country}
          hint="Its public holidays count for plans on your clock."
        />
        {fields.map((f) => (
          <OwnValue key={f.path} field={f} value={me.own?.[f.path] ?? ""} />
        ))}
      </div>
      <label className="mt-3 flex items-center gap-2">
        <input type="checkbox" defaultChecked={sendsAtOnce()} onChange={(e) => setSendsAtOnce(e.target.checked)} />
        Ctrl+Enter sends without showing the proof first (in this browser)
      </label>
      <label className="mt-1 flex items-center gap-2">
        <input type="checkbox" name="taskMail" defaultChecked={me.taskMail} />
        Send me an email when a task is due
      </label>
      <p className="mt-2 text-sm text-ink-soft">
        For other kinds of meeting, a team lead can add custom fields for senders. They appear here.
      </p>
      {problem && (
        <p role="alert" className="mt-2 text-stop">
          {problem}
        </p>
      )}
      <Button look="main" className="mt-3" type="submit">
        Save my profile
      </Button>
    </form>
  );
}

/** One value of a custom field of senders, of its type. */
function OwnValue({ field, value }: { field: Schemas["FieldInfo"]; value: string }) {
  const choices: [string, string][] =
    field.type === "yesno"
      ? [
          ["true", "yes"],
          ["false", "no"],
        ]
      : field.choices.map((c) => [c, c]);
  if (choices.length === 0) {
    const type = field.type === "date" ? "date" : "text";
    return <Input label={field.label} name={field.path} type={type} defaultValue={value} />;
  }
  return (
    <label className="block">
      <span className="block text-sm text-ink-soft">{field.label}</span>
      <select
        name={field.path}
        defaultValue={value}
        className="block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main"
      >
        <option value="">—</option>
        {choices.map(([code, name]) => (
          <option key={code} value={code}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}

function Signature({ from }: { from: Schemas["FromOut"] }) {
  const fields = $api.useQuery("get", "/api/fields").data ?? [];
  const [doc, setDoc] = useState(from.signature);
  const [changed, setChanged] = useState(false);
  const [picking, setPicking] = useState(false);
  const editor = useRef<Editor>(null);
  const latest = useRef(doc);
  latest.current = doc;
  useUnsaved(changed, "your signature");
  const { write, busy, problem } = useWrite(
    (signature: typeof doc) => api.PUT("/api/me/signature", { body: { email: from.email, signature } }),
    (_, signature) => {
      setChanged(latest.current !== signature); // what was typed meanwhile is not saved yet
      toast.success("Signature saved. New letters will use it.");
    },
  );
  return (
    <section aria-label={`Signature of ${from.email}`} className="mb-8">
      <h2 className="font-semibold">
        Signature <span className="font-normal text-ink-soft">for letters from</span> {from.email}
      </h2>
      <p className="mb-2 text-sm text-ink-soft">
        It goes where the template has the field Signature, else under the letter, and can be changed there. Type {"{"}{" "}
        for a field.
      </p>
      <div className="paper border border-rule bg-sheet px-5 py-3 [&_.ProseMirror]:min-h-20!">
        <FormattedBody
          label={`Signature for ${from.email}`}
          settings
          first={from.signature}
          fields={fields}
          readOnly={false}
          onReady={(e) => {
            editor.current = e;
          }}
          onChange={(d) => {
            setDoc(d);
            setChanged(true);
          }}
          onFocus={() => {}}
          onBrace={() => setPicking(true)}
        />
      </div>
      {problem && (
        <p role="alert" className="mt-2 text-stop">
          {problem}
        </p>
      )}
      <Button
        look={changed ? "main" : undefined}
        className="mt-2"
        disabled={!changed || busy}
        onClick={() => write(doc)}
      >
        {changed ? "Save signature" : "Saved"}
      </Button>
      {picking && (
        <FieldList
          only={["sender", "team", "today"]}
          onClose={() => setPicking(false)}
          onPick={(f) => {
            setPicking(false);
            editor.current
              ?.chain()
              .focus()
              .insertContent({ type: "field", attrs: { path: f.path } })
              .run();
          }}
        />
      )}
    </section>
  );
}
