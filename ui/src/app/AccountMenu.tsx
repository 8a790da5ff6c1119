import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { api, type Schemas } from "../api/client";
import { accountLook } from "./Masthead";
import { currentTheme, setTheme } from "./theme";

type Props = { me: Schemas["Me"]; open: boolean; onKeys: () => void };

/** What is seldom gone to, and what is the user's own. Open when it was loaded by being pressed. */
export function AccountMenu({ me, open, onKeys }: Props) {
  const queries = useQueryClient();
  const go = useNavigate();
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    button.current?.focus();
    if (open) button.current?.click();
  }, [open]);
  const signOut = async () => {
    await api.DELETE("/api/session");
    queries.clear();
    window.location.assign("/");
  };
  const items: [string, () => void][] = [
    ["My profile and signature", () => go("/me")],
    ["Do not contact", () => go("/opt-outs")],
    ["Post office", () => go("/post-office")],
    ["Import people", () => go("/people/import")],
    ["Team and fields", () => go("/fields")],
    ...(me.may.editSettings ? [["Settings", () => go("/settings")] as [string, () => void]] : []),
    [
      currentTheme() === "dark" ? "Light theme" : "Dark theme",
      () => setTheme(currentTheme() === "dark" ? "light" : "dark"),
    ],
    ["Guide", () => window.open("/guide", "_blank")],
    ["Keyboard shortcuts", onKeys],
    ["Sign out", signOut],
  ];
  return (
    <Menu>
      <MenuButton ref={button} aria-label={`Account of ${me.name}`} className={accountLook}>
        {me.firstName.charAt(0)}
        {me.lastName.charAt(0)}
      </MenuButton>
      <MenuItems
        anchor={{ to: "bottom end", gap: 6 }}
        portal={false}
        className="z-40 w-52 rounded-sm border border-rule-strong bg-sheet py-1 outline-none"
      >
        <div className="border-b border-rule px-3 py-2 text-sm text-ink-soft">
          {me.name}
          <br />
          {me.email}
        </div>
        {items.map(([name, act]) => (
          <MenuItem key={name}>
            <button type="button" onClick={act} className="block w-full px-3 py-1.5 text-left data-focus:bg-main-soft">
              {name}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
