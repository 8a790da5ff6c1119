import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { audienceWords, type Rights } from "./rights";

type Audience = Schemas["Audience"];
type Props = {
  title: string;
  own: Rights;
  /** Whether something around it says what counts when nothing is set. */
  inside: string;
  /** Who can edit it is not asked. */
  useOnly?: boolean;
  onStore: (rights: Rights) => Promise<boolean>;
  onClose: () => void;
};

const roles = [
  ["representative", "Sales representatives"],
  ["lead", "Team leads"],
  ["administrator", "Administrators"],
] as const;

/** Who may use a thing of the library, and who may edit it. */
export function RightsDialog({ title, own, inside, useOnly = false, onStore, onClose }: Props) {
  const [rights, setRights] = useState(own);
  const [busy, setBusy] = useState(false);
  const store = async () => {
    setBusy(true);
    if (await onStore(rights)) onClose();
    setBusy(false);
  };
  return (
    <Modal
      title={title}
      onClose={onClose}
      foot={
        <>
          <Button look="main" onClick={store} disabled={busy}>
            Save who can use it
          </Button>
          <Button look="quiet" onClick={onClose}>
            Cancel
          </Button>
        </>
      }
    >
      <Who
        legend="Who can use it"
        inherit={`Same as ${inside}`}
        value={rights.audience}
        onChange={(audience) => setRights({ ...rights, audience })}
      />
      {useOnly ? null : rights.audience.who === "owner" ? (
        <p className="mt-5 text-sm text-ink-soft">Nobody else can see or edit it, except administrators.</p>
      ) : (
        <Who
          legend="Who can edit it"
          inherit={`Same as ${inside.replace(": everybody", ": team leads")}`}
          value={rights.editors}
          onChange={(editors) => setRights({ ...rights, editors })}
        />
      )}
      <p className="mt-5 text-sm text-ink-soft">The owner and administrators always can.</p>
    </Modal>
  );
}

type WhoProps = { legend: string; inherit: string; value: Audience; onChange: (a: Audience) => void };

function Who({ legend, inherit, value, onChange }: WhoProps) {
  const list = $api.useQuery("get", "/api/colleagues");
  const toggle = <T,>(all: T[] | null | undefined, one: T) =>
    all?.includes(one) ? all.filter((x) => x !== one) : [...(all ?? []), one];
  const kinds: [Audience["who"], string][] = [
    ["", inherit],
    ["everybody", "Everybody"],
    ["some", "Selected people"],
    ["owner", "Only the owner"],
  ];
  const box = (name: string, on: boolean, flip: () => void) => (
    <label key={name} className="flex items-baseline gap-2">
      <input type="checkbox" checked={on} onChange={flip} className="accent-main" />
      <span>{name}</span>
    </label>
  );
  return (
    <fieldset className="mt-1 mb-4">
      <legend className="mb-1 font-semibold">{legend}</legend>
      {kinds.map(([who, name]) => (
        <label key={who} className="flex items-baseline gap-2">
          <input
            type="radio"
            name={legend}
            checked={value.who === who}
            onChange={() => onChange({ ...value, who })}
            className="accent-main"
          />
          <span>{name}</span>
        </label>
      ))}
      {value.who === "some" && (
        <div className="mt-2 ml-6 grid gap-x-6 gap-y-3 border-l border-rule pl-4 sm:grid-cols-2">
          <div>
            <h3 className="text-sm text-ink-soft">Teams and roles</h3>
            {list.data?.teams.map((t) =>
              box(t.name, !!value.teams?.includes(t.id), () =>
                onChange({ ...value, teams: toggle(value.teams, t.id) }),
              ),
            )}
            {roles.map(([role, name]) =>
              box(name, !!value.roles?.includes(role), () => onChange({ ...value, roles: toggle(value.roles, role) })),
            )}
          </div>
          <div>
            <h3 className="text-sm text-ink-soft">People</h3>
            {list.data?.users.map((u) =>
              box(u.name, !!value.users?.includes(u.id), () =>
                onChange({ ...value, users: toggle(value.users, u.id) }),
              ),
            )}
          </div>
        </div>
      )}
      {value.who === "some" && list.data && (
        <p className="mt-2 ml-6 text-sm text-ink-soft">{audienceWords(value, list.data)}</p>
      )}
    </fieldset>
  );
}
