import { useRef, useState } from "react";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { type Address, type AddressHandle, AddressLine } from "./AddressLine";
import type { Letter } from "./useDraft";

export type Envelope = { cc: Address[]; bcc: Address[]; replyTo: string };

type Props = { letter: Letter; onKeep: (e: Envelope) => Promise<string>; onClose: () => void };

/** Who gets a copy, and where answers go. */
export function CopiesDialog({ letter, onKeep, onClose }: Props) {
  const [cc, setCc] = useState(letter.cc);
  const [bcc, setBcc] = useState(letter.bcc);
  const [replyTo, setReplyTo] = useState(letter.replyTo);
  const [problem, setProblem] = useState("");
  const ccLine = useRef<AddressHandle>(null);
  const bccLine = useRef<AddressHandle>(null);
  const keep = async () => {
    const [ccNow, bccNow] = [await ccLine.current?.settle(), await bccLine.current?.settle()];
    if (!ccNow || !bccNow) return; // said at its line
    const said = await onKeep({ cc: ccNow, bcc: bccNow, replyTo });
    if (said) setProblem(said);
    else onClose();
  };
  return (
    <Modal
      title="Copies"
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" onClick={keep}>
          Save the copies
        </Button>
      }
    >
      <p className="mb-4 text-sm text-ink-soft">
        The values in the letter are those of {letter.person}; who gets a copy reads the same words.
      </p>
      <AddressLine ref={ccLine} label="Cc" value={cc} onChange={setCc} />
      <AddressLine ref={bccLine} label="Bcc (hidden from the others)" value={bcc} onChange={setBcc} />
      <Input
        label="Reply to"
        placeholder={letter.fromEmail}
        value={replyTo}
        onChange={(e) => setReplyTo(e.target.value)}
      />
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
    </Modal>
  );
}
