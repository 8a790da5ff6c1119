import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { $api, api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";

type Account = Schemas["AccountOut"];
type In = Schemas["AccountIn"];

const server = { host: "", port: 587, security: "starttls", method: "plain", user: "" } as const;
const noMailbox = { host: "", port: 993, security: "tls", method: "login", user: "" } as const;
const fresh: In = {
  name: "",
  addresses: [],
  audience: { who: "" },
  server,
  connections: 2,
  perMinute: 30,
  perDay: 500,
  returnTo: "",
  mailbox: noMailbox,
};

/** A mail server: where it is, how to sign in, whose letters go through it and how many. */
export function AccountDialog({ first, onClose }: { first: Account | null; onClose: () => void }) {
  const queries = useQueryClient();
  const people = $api.useQuery("get", "/api/colleagues").data?.users ?? [];
  const [a, setA] = useState<In>(() => (first ? inOf(first) : fresh));
  const [whose, setWhose] = useState(first?.userId ? "own" : first?.audience.who === "some" ? "some" : "all");
  const { write, busy, problem } = useWrite(
    (body: In) =>
      first
        ? api.PUT("/api/accounts/{id}", { params: { path: { id: first.id } }, body })
        : api.POST("/api/accounts", { body }),
    async () => {
      await queries.invalidateQueries({ queryKey: ["get", "/api/accounts"] });
      onClose();
    },
  );
  const store = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const secret = String(form.get("secret") ?? "");
    const boxSecret = String(form.get("boxSecret") ?? "");
    const { userId, ...rest } = a;
    const body: In = {
      ...rest,
      addresses: String(form.get("addresses"))
        .split(/[\s,;]+/)
        .filter(Boolean),
      audience: whose === "some" ? a.audience : { who: "" },
      ...(whose === "own" && userId && { userId }),
      ...(secret && { serverSecret: secret }),
      ...(boxSecret && { mailboxSecret: boxSecret }),
    };
    void write(body);
  };
  const number = (label: string, key: "connections" | "perMinute" | "perDay", hint: string) => (
    <Input
      label={label}
      type="number"
      min={0}
      value={a[key]}
      hint={hint}
      onChange={(e) => setA({ ...a, [key]: Number(e.target.value) })}
    />
  );
  return (
    <Modal
      title={first ? `Change ${first.name}` : "Add a mail server"}
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <Button look="main" className="ml-auto" type="submit" form="account" disabled={busy}>
            Save the server
          </Button>
        </>
      }
    >
      <form id="account" onSubmit={store} className="flex flex-col gap-4">
        <Input label="Name" value={a.name} onChange={(e) => setA({ ...a, name: e.target.value })} />
        <LoginFields
          legend="Sending"
          value={a.server}
          secretName="secret"
          kept={first?.hasSecret ?? false}
          onChange={(s) => setA({ ...a, server: s })}
        />
        <Input
          label="From which addresses"
          name="addresses"
          defaultValue={a.addresses.join(", ")}
          hint="Addresses, or a domain such as @fernhollow.example. Leave empty for all."
        />
        <fieldset>
          <legend className="text-sm text-ink-soft">Who can use it</legend>
          {[
            ["all", "Everybody who sends from these addresses"],
            ["some", "Only these people, who can then send from the addresses above"],
            ["own", "One person, for their letters only"],
          ].map(([key, name]) => (
            <label key={key} className="flex items-baseline gap-2">
              <input
                type="radio"
                name="whose"
                className="accent-main"
                checked={whose === key}
                onChange={() => setWhose(key as typeof whose)}
              />
              {name}
            </label>
          ))}
          {whose === "some" && (
            <div className="mt-1 ml-6 flex flex-wrap gap-x-5">
              {people.map((p) => {
                const users = a.audience.users ?? [];
                const has = users.includes(p.id);
                const next = has ? users.filter((id) => id !== p.id) : [...users, p.id];
                return (
                  <label key={p.id} className="flex items-baseline gap-2">
                    <input
                      type="checkbox"
                      className="accent-main"
                      checked={has}
                      onChange={() => setA({ ...a, audience: { who: "some", users: next } })}
                    />
                    {p.name}
                  </label>
                );
              })}
            </div>
          )}
          {whose === "own" && (
            <select
              aria-label="Person"
              className="mt-1 ml-6 border-b border-rule-strong bg-sheet py-1"
              value={a.userId ?? ""}
              onChange={(e) => setA({ ...a, userId: Number(e.target.value) })}
            >
              <option value="">choose</option>
              {people.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </select>
          )}
        </fieldset>
        <div className="grid gap-4 sm:grid-cols-3">
          {number("Connections", "connections", "at the same time, 1 to 10")}
          {number("Letters per minute", "perMinute", "0: no limit")}
          {number("Letters per day", "perDay", "0: no limit")}
        </div>
        <Input
          label="Return address for bounces"
          value={a.returnTo}
          hint="Mail to it must reach this program. Leave empty for the sender’s own address."
          onChange={(e) => setA({ ...a, returnTo: e.target.value })}
        />
        <LoginFields
          legend="Mailbox for replies (IMAP). Leave the server empty for none"
          value={a.mailbox}
          secretName="boxSecret"
          kept={first?.hasMailboxSecret ?? false}
          onChange={(m) => setA({ ...a, mailbox: m })}
        />
      </form>
    </Modal>
  );
}

function inOf(a: Account): In {
  const {
    id: _,
    hasSecret: _1,
    hasMailboxSecret: _2,
    mailboxSaid: _3,
    dkimDomain: _4,
    dkimSelector: _5,
    record: _6,
    ...rest
  } = a;
  return { ...rest, mailbox: rest.mailbox.host ? rest.mailbox : noMailbox };
}

type LoginProps = {
  legend: string;
  value: Schemas["LoginOut"];
  secretName: string;
  kept: boolean;
  onChange: (l: Schemas["LoginOut"]) => void;
};

/** A server and how to sign in there. */
function LoginFields({ legend, value: l, secretName, kept, onChange }: LoginProps) {
  const select = <K extends "security" | "method">(label: string, key: K, choices: [string, string][]) => (
    <label className="block">
      <span className="block text-sm text-ink-soft">{label}</span>
      <select
        value={l[key]}
        onChange={(e) => onChange({ ...l, [key]: e.target.value })}
        className="min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main"
      >
        {choices.map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <fieldset className="border-t border-rule pt-2">
      <legend className="pr-2 font-semibold">{legend}</legend>
      <div className="grid gap-4 sm:grid-cols-[1fr_6rem_9rem]">
        <Input label="Server" value={l.host} onChange={(e) => onChange({ ...l, host: e.target.value })} />
        <Input
          label="Port"
          type="number"
          value={l.port}
          onChange={(e) => onChange({ ...l, port: Number(e.target.value) })}
        />
        {select("Security", "security", [
          ["starttls", "STARTTLS"],
          ["tls", "TLS"],
          ["none", "none"],
        ])}
      </div>
      <div className="mt-2 grid gap-4 sm:grid-cols-3">
        {select("Sign in with", "method", [
          ["plain", "password (PLAIN)"],
          ["login", "password (LOGIN)"],
          ["xoauth2", "token (XOAUTH2)"],
          ["none", "nothing"],
        ])}
        {l.method !== "none" && (
          <>
            <Input
              label="User"
              autoComplete="off"
              value={l.user}
              onChange={(e) => onChange({ ...l, user: e.target.value })}
            />
            <Input
              label={l.method === "xoauth2" ? "Token" : "Password"}
              type="password"
              name={secretName}
              autoComplete="new-password"
              placeholder={kept ? "saved; type to change it" : ""}
            />
          </>
        )}
      </div>
    </fieldset>
  );
}
