import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Smile } from "lucide-react";

// A few that letters use, by what they are.
const emoji: [string, string][] = [
  ["🙂", "smile"],
  ["😀", "grin"],
  ["😉", "wink"],
  ["😊", "pleased"],
  ["😅", "relieved"],
  ["🤔", "thinking"],
  ["🙏", "thanks"],
  ["👍", "thumb up"],
  ["👋", "wave"],
  ["👏", "applause"],
  ["🤝", "handshake"],
  ["💪", "strong"],
  ["✅", "done"],
  ["✔️", "tick"],
  ["❗", "exclamation"],
  ["❓", "question"],
  ["💡", "idea"],
  ["📅", "calendar"],
  ["⏰", "clock"],
  ["📍", "place"],
  ["📞", "telephone"],
  ["✉️", "letter"],
  ["📎", "clip"],
  ["📄", "document"],
  ["📈", "rising"],
  ["🔧", "spanner"],
  ["❄️", "snow"],
  ["🌡️", "thermometer"],
  ["☀️", "sun"],
  ["🌷", "tulip"],
  ["🌹", "rose"],
  ["🥖", "bread"],
  ["🧀", "cheese"],
  ["🔬", "microscope"],
  ["🍽️", "plate"],
  ["☕", "coffee"],
  ["🎉", "party"],
  ["🎁", "present"],
  ["⭐", "star"],
  ["❤️", "heart"],
];

export function Emoji({ onPick }: { onPick: (sign: string) => void }) {
  return (
    <Popover className="relative">
      <PopoverButton
        aria-label="Emoji"
        title="Emoji"
        className="grid size-7.5 place-items-center rounded-sm hover:bg-main-soft"
      >
        <Smile size={16} aria-hidden />
      </PopoverButton>
      <PopoverPanel
        focus
        className="absolute top-full left-0 z-30 grid w-72 grid-cols-8 rounded-sm border border-rule-strong bg-sheet p-1.5"
      >
        {({ close }) => (
          <>
            {emoji.map(([sign, name]) => (
              <button
                key={name}
                type="button"
                aria-label={name}
                title={name}
                onClick={() => {
                  close();
                  onPick(sign);
                }}
                className="grid size-8 place-items-center rounded-sm text-lg hover:bg-main-soft focus:bg-main-soft"
              >
                {sign}
              </button>
            ))}
          </>
        )}
      </PopoverPanel>
    </Popover>
  );
}
