import { useState } from "react";
import { Link, useParams } from "react-router";
import { $api } from "../../api/client";
import { Actions } from "../../components/Actions";
import { EditableFacts } from "../../components/EditableFacts";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { Filed } from "../people/Filed";
import { NewDeal } from "../records/NewDeal";
import { NewPerson } from "../records/NewPerson";
import { NoteLine } from "../records/NoteLine";
import { OwnerDialog } from "../records/OwnerDialog";
import { DeletedLine, DeleteRecord } from "../records/Taken";

/** A company: its people, its deals, and everything that was written to and by them. */
export function CompanyPage() {
  const id = Number(useParams().id);
  const [open, setOpen] = useState<"contact" | "deal" | "owner" | "delete" | null>(null);
  const company = $api.useQuery("get", "/api/companies/{id}", { params: { path: { id } } });
  if (company.isPending) return <Loading />;
  if (company.error)
    return (
      <div className="p-6">
        <ProblemText error={company.error} />
      </div>
    );
  const c = company.data;
  const record = { kind: "company" as const, id, name: c.name };
  const here = { id, name: c.name };
  const close = () => setOpen(null);
  return (
    <div className="flex min-h-full flex-col">
      <DeletedLine record={record} at={c.deletedAt} />
      <header className="border-b border-rule-strong bg-sheet px-4 pt-4 pb-3 sm:px-6">
        <div className="flex flex-wrap items-baseline gap-x-4">
          <h1 className="font-serif text-3xl font-semibold">{c.name}</h1>
          <p className="text-ink-soft">Company{c.owner && ` · Owner: ${c.owner}`}</p>
          <div className="ml-auto">
            <Actions
              label="More about this company"
              items={[
                ["New contact here", () => setOpen("contact")],
                ["New deal with it", () => setOpen("deal")],
                ["Change the owner", () => setOpen("owner")],
                null,
                ["Delete", () => setOpen("delete")],
              ]}
            />
          </div>
        </div>
        <EditableFacts
          kind="company"
          id={id}
          fields={c.fields.filter((f) => f.path !== "company.name")}
          onChange={() => company.refetch()}
        />
        <ul aria-label="People" className="mt-3 flex flex-wrap gap-x-6 gap-y-1 text-sm">
          {c.people.map((p) => (
            <li key={p.id}>
              <Link to={`/people/${p.id}`} className="font-serif text-base font-medium hover:underline">
                {p.name || p.email}
              </Link>{" "}
              <span className="text-ink-soft">{p.jobTitle}</span>
            </li>
          ))}
          {c.deals.map((d) => (
            <li key={`deal ${d.id}`}>
              <Link to={`/deals/${d.id}`} className="text-main hover:underline">
                {d.name}
              </Link>{" "}
              <span className="text-ink-soft">
                {d.stage}, {d.amount}
              </span>
            </li>
          ))}
        </ul>
      </header>
      <Filed
        of={{ company: id }}
        above={<NoteLine kind="company" id={id} />}
        empty={<p className="mx-auto mt-10 max-w-md text-ink-soft">No letters to this company yet.</p>}
      />
      {open === "contact" && <NewPerson kind="contact" company={here} onClose={close} />}
      {open === "deal" && <NewDeal company={here} onClose={close} />}
      {open === "owner" && <OwnerDialog record={record} owner={c.ownerId} onClose={close} />}
      {open === "delete" && <DeleteRecord record={record} onClose={close} />}
    </div>
  );
}
