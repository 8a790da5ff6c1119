import { useQueryClient } from "@tanstack/react-query";
import { PenLine, Route } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, statusOf, wordsOf } from "../../api/client";
import { useWriting } from "../../app/writing";
import { type Action, Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { EditableFact, type Stored } from "../../components/EditableFacts";
import { plural } from "../../components/plural";
import { dayOf } from "../../components/time";
import { OnTheWayList } from "../letters/OnTheWay";
import { CompanyDialog } from "../records/CompanyDialog";
import { MakeContact } from "../records/MakeContact";
import { MergePeople } from "../records/MergePeople";
import { NewDeal } from "../records/NewDeal";
import { OwnerDialog } from "../records/OwnerDialog";
import { DeletedLine, DeleteRecord } from "../records/Taken";

type Sheet = Schemas["PersonOut"];
type Field = Schemas["RecordField"];

/** Who this is, across the whole width; every fact is changed in its place. */
export function Facts({ sheet }: { sheet: Sheet }) {
  const write = useWriting();
  const [all, setAll] = useState(false);
  const { person, company } = sheet;
  const fields = all ? sheet.fields : sheet.fields.filter((f) => f.value !== "" || f.path === "person.email");
  const missing = sheet.fields.length - fields.length;
  return (
    <header className="border-b border-rule-strong bg-sheet px-4 pt-4 pb-3 sm:px-6">
      <DeletedLine record={{ kind: "person", id: person.id, name: sheet.name }} at={person.deletedAt} />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="font-serif text-3xl font-semibold">{sheet.name || "No name"}</h1>
        <p className="text-ink-soft">
          {person.kind === "lead" ? "Lead" : "Contact"}
          {company ? (
            <>
              {" at "}
              <Link to={`/companies/${company.id}`} className="text-main underline">
                {company.name}
              </Link>
            </>
          ) : person.companyName ? (
            ` at ${person.companyName}`
          ) : (
            ""
          )}
          {sheet.owner ? ` · Owner: ${sheet.owner}` : ""}
        </p>
        <div className="ml-auto flex items-center gap-2">
          <Button look="main" disabled={!!person.deletedAt} onClick={() => write({ personId: person.id })}>
            <PenLine size={15} aria-hidden /> Write to {person.firstName || sheet.name}
          </Button>
          <Link
            to={`/start?person=${person.id}`}
            className="inline-flex min-h-8 items-center gap-1.5 rounded-sm border border-rule-strong bg-sheet px-3 whitespace-nowrap hover:border-main"
          >
            <Route size={15} aria-hidden /> Start a plan
          </Link>
          <More sheet={sheet} />
        </div>
      </div>
      {person.optedOutAt && (
        <p className="mt-2 text-stop">
          Asked on {dayOf(person.optedOutAt)} not to be written to. No letter goes out to this address.
        </p>
      )}
      <Reach sheet={sheet} />
      <Unfit letters={sheet.unfit} />
      <dl className="mt-3 grid grid-cols-2 gap-x-6 gap-y-2 sm:grid-cols-3 lg:grid-cols-5">
        {fields.map((f) => (
          <Fact key={f.path} field={f} person={person} />
        ))}
        {company && <Plain label="Company city" value={[company.postalCode, company.city].filter(Boolean).join(" ")} />}
        {sheet.deals.map((d) => (
          <div key={d.id} className="min-w-0">
            <dt className="text-sm text-ink-soft">Deal · {d.stage}</dt>
            <dd className="truncate">
              <Link to={`/deals/${d.id}`} className="hover:underline" title={d.name}>
                {d.name}, {d.amount}
              </Link>
            </dd>
          </div>
        ))}
      </dl>
      {(missing > 0 || all) && (
        <Button look="quiet" className="mt-1 -ml-3" onClick={() => setAll(!all)}>
          {all ? "Hide empty fields" : plural(missing, "empty field")}
        </Button>
      )}
    </header>
  );
}

/** Letters on their way that do not fit the record any more. */
function Unfit({ letters }: { letters: Sheet["unfit"] }) {
  if (letters.length === 0) return null;
  return (
    <div className="mt-2 border-l-3 border-advice py-1 pl-3" role="status">
      <p className="font-semibold">
        {plural(letters.length, "letter on its way", "letters on their way")} won’t go like this:
      </p>
      <OnTheWayList letters={letters} />
    </div>
  );
}

/** What is seldom done with a person. */
function More({ sheet }: { sheet: Sheet }) {
  const { person, company } = sheet;
  const queries = useQueryClient();
  const [open, setOpen] = useState<"contact" | "deal" | "owner" | "company" | "merge" | "delete" | null>(null);
  const record = { kind: "person" as const, id: person.id, name: sheet.name || "this person" };
  const close = () => setOpen(null);
  const track = async (on: boolean) => {
    const { error } = await api
      .PUT("/api/people/{id}/tracked", { params: { path: { id: person.id } }, body: { on } })
      .catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    toast.success(on ? "Opens and clicks are tracked again." : "Opens and clicks are no longer tracked.");
    await queries.invalidateQueries();
  };
  return (
    <>
      <Actions
        label="More about this person"
        items={[
          ...(person.kind === "lead" ? [["Make a contact", () => setOpen("contact")] as Action] : []),
          ["New deal with them", () => setOpen("deal")],
          ["Change the owner", () => setOpen("owner")],
          ...(person.kind === "contact" ? [["Change the company", () => setOpen("company")] as Action] : []),
          null,
          ["Save all letters as .mbox", () => window.location.assign(`/api/people/${person.id}/mbox`)],
          person.untracked
            ? ["Track opens and clicks", () => void track(true)]
            : ["Don’t track opens and clicks", () => void track(false)],
          null,
          ["Merge another record into this one", () => setOpen("merge")],
          ["Delete", () => setOpen("delete")],
        ]}
      />
      {open === "contact" && <MakeContact person={person} onClose={close} />}
      {open === "deal" && <NewDeal person={{ id: person.id, name: record.name }} onClose={close} />}
      {open === "owner" && <OwnerDialog record={record} owner={person.ownerId} onClose={close} />}
      {open === "company" && (
        <CompanyDialog {...record} company={company ? { id: company.id, name: company.name } : null} onClose={close} />
      )}
      {open === "merge" && <MergePeople person={person} name={record.name} onClose={close} />}
      {open === "delete" && <DeleteRecord record={record} onClose={close} />}
    </>
  );
}

/** Whether letters reach this person, and what is measured of them. */
function Reach({ sheet }: { sheet: Sheet }) {
  const queries = useQueryClient();
  const { person, badAddress } = sheet;
  const path = { params: { path: { id: person.id } } };
  const settle = async (call: Promise<{ error?: unknown }>, said: string, undo?: () => void) => {
    const { error } = await call.catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    toast.success(said, undo ? { action: { label: "Undo", onClick: undo } } : {});
    await queries.invalidateQueries();
  };
  const works = () =>
    settle(api.POST("/api/people/{id}/address-works", path), "Letters will be sent there again.", () => void fails());
  const fails = () => settle(api.POST("/api/people/{id}/address-fails", path), "Letters are not sent there.");
  if (!badAddress) return null;
  return (
    <p className="mt-2 flex flex-wrap items-baseline gap-x-3 text-stop">
      <span title={badAddress.detail}>
        Letters to {person.email} came back on {dayOf(badAddress.at)}: {badAddress.reason}.
        {badAddress.reportId && (
          <>
            {" "}
            <Link className="underline" to={`/came/${badAddress.reportId}`}>
              See the report
            </Link>
          </>
        )}
      </span>
      <Button look="quiet" className="px-1!" onClick={works}>
        It works again
      </Button>
    </p>
  );
}

function Plain({ label, value }: { label: string; value: string }) {
  if (!value) return null;
  return (
    <div className="min-w-0">
      <dt className="text-sm text-ink-soft">{label}</dt>
      <dd className="truncate" title={value}>
        {value}
      </dd>
    </div>
  );
}

function Fact({ field, person }: { field: Field; person: Schemas["Person"] }) {
  const queries = useQueryClient();
  const write = useWriting();
  const save = async (value: string): Promise<Stored> => {
    const { data, error } = await api
      .PATCH("/api/people/{id}", {
        params: { path: { id: person.id } },
        body: { was: { [field.path]: field.value }, set: { [field.path]: value } },
      })
      .catch(noAnswer);
    if (!data && statusOf(error) === 409) {
      await queries.invalidateQueries({ queryKey: ["get", "/api/people/{id}"] });
      return "changed";
    }
    if (!data) {
      toast.error(wordsOf(error));
      return false;
    }
    queries.setQueryData(
      $api.queryOptions("get", "/api/people/{id}", { params: { path: { id: person.id } } }).queryKey,
      data,
    );
    queries.invalidateQueries({ queryKey: ["get", "/api/history"] });
    queries.invalidateQueries({ queryKey: ["get", "/api/people"] });
    return true;
  };
  return (
    <div className="min-w-0">
      <dt className="text-sm text-ink-soft">
        {field.label}
        {field.path === "person.email" && field.value && (
          <button
            type="button"
            className="ml-2 text-main hover:underline"
            onClick={() => write({ personId: person.id })}
          >
            write<span className="sr-only"> to {field.value}</span>
          </button>
        )}
      </dt>
      <dd>
        <EditableFact field={field} onSave={save} />
      </dd>
    </div>
  );
}
