import { type FormEvent, useState } from "react";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";

type Props = {
  title: string;
  label: string;
  first: string;
  onStore: (name: string) => Promise<boolean>;
  onClose: () => void;
};

export function NameDialog({ title, label, first, onStore, onClose }: Props) {
  const [name, setName] = useState(first);
  const [busy, setBusy] = useState(false);
  const store = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    if (await onStore(name)) onClose();
    setBusy(false);
  };
  return (
    <Modal title={title} onClose={onClose}>
      <form onSubmit={store} className="flex items-end gap-3">
        <Input
          label={label}
          value={name}
          maxLength={80}
          autoFocus
          onChange={(e) => setName(e.target.value)}
          className="flex-1"
        />
        <Button look="main" type="submit" disabled={busy || name.trim() === ""}>
          Save the name
        </Button>
      </form>
    </Modal>
  );
}
