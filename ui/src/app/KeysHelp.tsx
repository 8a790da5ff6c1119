import { useLocation } from "react-router";
import { Modal } from "../components/Modal";

type Keys = [key: string, what: string][];

const everywhere: Keys = [
  ["w", "Write a letter, to the person on the screen or one you choose"],
  ["Ctrl K", "Find people, templates and pages"],
  ["/", "Search this list"],
  ["j  k", "Move down and up the lists on the screen"],
  ["x", "Select the person you are at; with Shift, all from the last one"],
  ["Enter", "Open"],
  ["Esc", "Close, stop typing, then go back"],
  ["Ctrl Enter", "In a dialog: do what its button says"],
  ["b", "Take back the letter that is about to be sent"],
  ["?", "Show these keys"],
];
/** What more a screen has, by its path. */
const screens: [path: RegExp, name: string, keys: Keys][] = [
  [
    /^\/letters\//,
    "In a letter",
    [
      ["Tab", "Go to the next margin note; after a passage’s shortcut: insert it"],
      ["/", "On an empty line: insert a template or a passage"],
      ["Ctrl Enter", "Open the proof, then send"],
      ["Ctrl Z", "Undo"],
    ],
  ],
  [
    /^\/templates\/./,
    "In a template",
    [
      ["{", "Insert a merge field, also in the address of a link"],
      ["/", "On an empty line of a formatted one: insert a block"],
      ["Ctrl Enter", "Save it"],
      ["Ctrl Z", "Undo"],
    ],
  ],
  [
    /^\/templates$/,
    "In this list",
    [
      ["↓  ↑", "Move down and up"],
      ["s", "Star the template, or unstar it"],
      ["m", "Move it to another folder"],
    ],
  ],
  [
    /^\/people$/,
    "In this list",
    [
      ["↓  ↑", "Move down and up"],
      ["Page ↓  Page ↑", "Move by a screen"],
    ],
  ],
  [
    /^\/rounds\/./,
    "In a round, while you check",
    [
      ["Enter", "The letter is good: the next one. In one with a gap: go to the gap"],
      ["e", "Change this letter at the desk"],
      ["h", "Hold this person back, or put them back in"],
      ["j  k", "The next letter and the one before"],
      ["/", "Find somebody in the round"],
    ],
  ],
  [
    /^\/plans\/./,
    "On a plan",
    [
      ["Enter", "Open the step you are at, or close it"],
      ["Alt ↑  Alt ↓", "Move the step up or down"],
      ["{", "In the words of a task: insert a merge field"],
      ["Ctrl Enter", "Save the plan"],
    ],
  ],
  [/^\/start|^\/plans\/\d+\/start/, "Before a plan starts", [["Ctrl Enter", "Start it"]]],
  [
    /^\/today$/,
    "On a task",
    [
      ["d", "Done"],
      ["t", "Put it off until tomorrow"],
      ["n", "Put it off for a week"],
      ["w", "Write to the person it is about"],
    ],
  ],
  [/^\/(people|companies|deals)\/./, "On this record", [["↓  ↑", "Move down and up the history"]]],
];

export function KeysHelp({ onClose }: { onClose: () => void }) {
  const { pathname } = useLocation();
  const here = screens.find(([path]) => path.test(pathname));
  return (
    <Modal title="Keyboard shortcuts" onClose={onClose}>
      {here && <List name={here[1]} keys={here[2]} />}
      <List name="Everywhere" keys={everywhere} />
      <p>
        <a className="text-main underline" href="/guide" target="_blank" rel="noreferrer">
          Read the guide
        </a>
        , one part for each job, with pictures.
      </p>
    </Modal>
  );
}

function List({ name, keys }: { name: string; keys: Keys }) {
  return (
    <section aria-label={name} className="mb-5 last:mb-0">
      <h3 className="mb-2 font-semibold">{name}</h3>
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
    </section>
  );
}
