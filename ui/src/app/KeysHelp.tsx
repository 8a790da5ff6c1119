import { Modal } from "../components/Modal";

const keys: [string, string][] = [
  ["w", "Write a letter, to the person on the screen or one you choose"],
  ["Ctrl K", "Find people, templates and screens"],
  ["/", "Search in this list"],
  ["j  k  ↓  ↑", "Down and up in a list"],
  ["Enter", "Open"],
  ["Tab", "At the desk: on to the next note in the margin"],
  ["/", "At the desk, on an empty line: put in a template or a passage"],
  ["Tab", "At the desk, behind a passage’s shortcut: put it in"],
  ["b", "Take back the letter that is about to go"],
  ["Ctrl Enter", "At the desk: send. At a template: store it"],
  ["{", "In a template: offer merge fields"],
  ["Esc", "Back, close"],
  ["?", "This list"],
];

export function KeysHelp({ onClose }: { onClose: () => void }) {
  return (
    <Modal title="Keys" onClose={onClose}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-6 gap-y-2">
        {keys.map(([key, what]) => (
          <div key={what} className="contents">
            <dt>
              <kbd className="rounded-sm border border-rule-strong bg-ground px-1.5 py-0.5 font-sans text-sm whitespace-pre">
                {key}
              </kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
