import type { FormEvent, ReactNode } from "react";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";

type Props = {
  title: string;
  button: string;
  busy: boolean;
  /** What is asked is not there yet. */
  off?: boolean;
  problem: string;
  onSubmit: (event: FormEvent<HTMLFormElement>) => void;
  onClose: () => void;
  children: ReactNode;
  /** A second thing that can be done. */
  other?: ReactNode;
};

/** The frame of what writes a record down: what is asked, what is wrong, the button. */
export function RecordForm({ title, button, busy, off = false, problem, onSubmit, onClose, children, other }: Props) {
  return (
    <Modal
      title={title}
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <span className="ml-auto flex gap-2">
            {other}
            <Button look="main" type="submit" form="record" disabled={busy || off}>
              {button}
            </Button>
          </span>
        </>
      }
    >
      <form
        id="record"
        onSubmit={(e) => {
          e.preventDefault();
          onSubmit(e);
        }}
        className="space-y-4"
      >
        {children}
      </form>
    </Modal>
  );
}
