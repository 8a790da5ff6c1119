import { Modal } from "../../components/Modal";
import { NewTask } from "./NewTask";

type Props = { text: string; personId?: number; dealId?: number; onClose: () => void };

/** Makes a task of something, with words to begin with. */
export function TaskDialog({ text, personId, dealId, onClose }: Props) {
  return (
    <Modal title="Make a task" onClose={onClose}>
      <NewTask text={text} {...(personId && { personId })} {...(dealId && { dealId })} focus onDone={onClose} />
    </Modal>
  );
}
