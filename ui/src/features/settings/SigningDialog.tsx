import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";

/** The key that signs the letters of a mail server (DKIM), and the record to publish. */
export function SigningDialog({ account, onClose }: { account: Schemas["AccountOut"]; onClose: () => void }) {
  const queries = useQueryClient();
  const [a, setA] = useState(account);
  const [domain, setDomain] = useState(a.dkimDomain || a.addresses[0]?.replace(/^.*@/, "") || "");
  const [selector, setSelector] = useState(a.dkimSelector || "letters1");
  const { write, busy, problem } = useWrite(
    () => api.POST("/api/accounts/{id}/dkim", { params: { path: { id: a.id } }, body: { domain, selector } }),
    async (made) => {
      setA(made);
      await queries.invalidateQueries({ queryKey: ["get", "/api/accounts"] });
    },
  );
  const copy = () =>
    (navigator.clipboard?.writeText(a.record.value) ?? Promise.reject()).then(
      () => toast.success("Copied."),
      () => toast.error("Your browser didn’t allow copying; select it and copy it yourself."),
    );
  return (
    <Modal
      saved={domain === a.dkimDomain && selector === a.dkimSelector}
      title={`Sign letters from ${a.name}`}
      onClose={onClose}
      foot={
        a.record.name ? (
          <>
            <Button className="ml-auto" disabled={busy} onClick={() => write()}>
              Create a new key
            </Button>
            <Button look="main" onClick={copy}>
              Copy the value
            </Button>
          </>
        ) : (
          <Button look="main" className="ml-auto" disabled={busy} onClick={() => write()}>
            Create the key
          </Button>
        )
      }
    >
      <p className="mb-4 text-sm text-ink-soft">
        A signature (DKIM) lets mail servers check that a letter is yours and wasn’t changed on the way.
      </p>
      <div className="grid gap-4 sm:grid-cols-2">
        <Input label="Your email domain" value={domain} onChange={(e) => setDomain(e.target.value)} />
        <Input label="Key name" value={selector} onChange={(e) => setSelector(e.target.value)} />
      </div>
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
      {a.record.name && (
        <div className="mt-5">
          <p className="mb-1">
            Publish this TXT record with your domain provider. Until then the signature can’t be checked. A new key
            needs a new record.
          </p>
          <dl className="text-sm">
            <dt className="text-ink-soft">Name</dt>
            <dd className="mb-2 font-mono break-all">{a.record.name}</dd>
            <dt className="text-ink-soft">Value</dt>
            <dd className="font-mono break-all">{a.record.value}</dd>
          </dl>
        </div>
      )}
    </Modal>
  );
}
