import { Modal } from "../components/Modal";

const keys: [string, string][] = [
  ["w", "Write a letter, to the person on the screen or one you choose"],
  ["Ctrl K", "Find people, templates and pages"],
  ["/", "Search this list"],
  ["j  k  ↓  ↑", "Move down and up a list"],
  ["Enter", "Open"],
  ["Tab", "In a letter: go to the next margin note"],
  ["/", "In a letter, on an empty line: insert a template or a passage"],
  ["Tab", "In a letter, after a passage’s shortcut: insert it"],
  ["b", "Take back the letter that is about to be sent"],
  ["Ctrl Enter", "In a letter: open the proof, then send. In a template: save it"],
  ["{", "In a template: insert a merge field"],
  ["Esc", "Go back or close"],
  ["?", "Show these keys"],
];

export function KeysHelp({ onClose }: { onClose: () => void }) {
  return (
    <Modal title="Keyboard shortcuts" onClose={onClose}>
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
