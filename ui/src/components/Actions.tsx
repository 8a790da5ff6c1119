import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Ellipsis } from "lucide-react";

/** Name and act; null draws a line. */
export type Action = readonly [name: string, act: () => void] | null;

type Props = {
  label: string;
  items: Action[];
  /** It stands at the lower left edge of the window, so it opens upwards and to the right. */
  atFoot?: boolean;
};

/** A button that opens what can be done with a thing. */
export function Actions({ label, items, atFoot = false }: Props) {
  return (
    <Menu as="div" className="relative">
      <MenuButton
        aria-label={label}
        title={label}
        className="flex size-7 items-center justify-center rounded-sm text-ink-soft hover:bg-main-soft hover:text-main"
      >
        <Ellipsis size={16} aria-hidden />
      </MenuButton>
      <MenuItems
        modal={false}
        className={`absolute z-30 w-56 ${atFoot ? "bottom-full left-0" : "top-full right-0"} rounded-sm border border-rule-strong bg-sheet py-1 text-base outline-none`}
      >
        {items.map((item, i) =>
          item ? (
            <MenuItem key={item[0]}>
              <button
                type="button"
                onClick={item[1]}
                className="block w-full px-3 py-1.5 text-left data-focus:bg-main-soft"
              >
                {item[0]}
              </button>
            </MenuItem>
          ) : (
            // biome-ignore lint/suspicious/noArrayIndexKey: a line has no other identity
            <div key={i} className="my-1 border-t border-rule" />
          ),
        )}
      </MenuItems>
    </Menu>
  );
}
