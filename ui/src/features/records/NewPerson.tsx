import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { useTyped } from "../../app/useTyped";
import { useWriting } from "../../app/writing";
import { Button } from "../../components/Button";
import { Tabs } from "../../components/Tabs";
import { ChooseCompany, type Chosen, companyOf } from "./Choose";
import { RecordForm } from "./RecordForm";
import { typedIn, ValueLines } from "./ValueLines";

type Kind = "lead" | "contact";
type Typed = { first: string; last: string; email: string; company: string };

const first = ["person.first_name", "person.last_name", "person.email", "person.phone", "person.job_title"];

/** Writes down a lead or a contact. */
export function NewPerson({
  kind: firstKind,
  company: at,
  onClose,
}: {
  kind: Kind;
  company?: Chosen;
  onClose: () => void;
}) {
  const go = useNavigate();
  const letter = useWriting();
  const queries = useQueryClient();
  const [kind, setKind] = useState<Kind>(firstKind);
  const [company, setCompany] = useState<Chosen | null>(at ?? null);
  const [typed, setTyped] = useState<Typed>({ first: "", last: "", email: "", company: "" });
  const thenWrite = useRef(false);
  const { write, busy, problem } = useWrite(
    (values: Record<string, string>) =>
      api.POST("/api/records/person", { body: { kind, values, ...companyOf(company) } }),
    async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ["get", "/api/people"] });
      onClose();
      if (thenWrite.current) return letter({ personId: id });
      toast.success(kind === "lead" ? "The lead was added." : "The contact was added.");
      go(`/people/${id}`);
    },
  );
  const take = (path: string, value: string) => {
    const key = { "person.first_name": "first", "person.last_name": "last", "person.email": "email" }[path];
    if (key) setTyped((t) => ({ ...t, [key]: value }));
  };
  return (
    <RecordForm
      title={kind === "lead" ? "New lead" : "New contact"}
      button={kind === "lead" ? "Add the lead" : "Add the contact"}
      busy={busy}
      problem={problem}
      onSubmit={(e) => void write(typedIn(e)).then(() => (thenWrite.current = false))}
      onClose={onClose}
      other={
        <Button
          type="submit"
          form="record"
          disabled={busy}
          onClick={() => {
            thenWrite.current = true;
          }}
        >
          Add and write
        </Button>
      }
    >
      <Tabs
        label="Kind"
        choices={[
          ["lead", "Lead"],
          ["contact", "Contact"],
        ]}
        value={kind}
        onChange={setKind}
      />
      <ValueLines of={["person", kind]} first={first} without={["lead.company_name"]} onTyped={take}>
        <ChooseCompany label="Company" value={company} onChoose={setCompany} />
      </ValueLines>
      <Twins typed={{ ...typed, company: company?.name ?? "" }} onClose={onClose} />
    </RecordForm>
  );
}

const why = { email: "has the same address", name: "has the same name", close: "has a name like it, at this company" };

/** Who of the records may be the one that is being written down. */
function Twins({ typed, onClose }: { typed: Typed; onClose: () => void }) {
  const now = JSON.stringify(typed);
  const [asked, setAsked] = useState(now);
  // The question waits for a pause in the typing.
  const [, setLater] = useTyped(asked, setAsked, 250);
  const [was, setWas] = useState(now);
  if (was !== now) {
    setWas(now);
    setLater(now);
  }
  const query = JSON.parse(asked) as Typed;
  const enough = query.last.length > 1 || query.email.includes("@");
  const twins = $api.useQuery(
    "get",
    "/api/twins",
    { params: { query } },
    { enabled: enough, placeholderData: (d) => d },
  );
  if (!enough || !twins.data?.length) return null;
  return (
    <div role="status" className="border-l-3 border-advice bg-advice-soft px-3 py-2 text-sm">
      <p>Perhaps they are in your records already:</p>
      <ul>
        {twins.data.map((t) => (
          <li key={t.id}>
            <Link
              to={`/people/${t.id}`}
              onClick={onClose}
              className="font-serif text-base font-medium text-main underline"
            >
              {`${t.firstName} ${t.lastName}`.trim() || t.email}
            </Link>{" "}
            <span className="text-ink-soft">
              {[t.kind, t.company, t.email].filter(Boolean).join(" · ")}; {why[t.why]}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
