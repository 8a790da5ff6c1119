import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { PenLine, Search } from "lucide-react";
import { Link, useLocation, useNavigate } from "react-router";
import { api, type Schemas } from "../api/client";
import { currentTheme, setTheme } from "./theme";

const sections = [
  ["Today", "/today"],
  ["People", "/people"],
  ["Deals", "/deals"],
  ["Templates", "/templates"],
  ["Outbox", "/outbox"],
] as const;

/** What lies in the section of the templates without saying so in its address. */
const besideTemplates = ["/shelf", "/passages", "/stationery", "/documents", "/library", "/fields"];

type Props = { me: Schemas["Me"]; onFind: () => void; onWrite: () => void; onKeys: () => void };

export function Masthead({ me, onFind, onWrite, onKeys }: Props) {
  const { pathname } = useLocation();
  const at = besideTemplates.includes(pathname) ? "/templates" : pathname;
  return (
    <header className="flex h-12 shrink-0 items-stretch gap-1 border-b border-rule-strong bg-ground px-3 sm:px-5">
      <Link
        to="/people"
        className="mr-2 hidden items-center font-serif text-lg font-semibold text-main sm:flex md:mr-5"
      >
        Lucid Letter
      </Link>
      <nav aria-label="Sections" className="flex items-stretch gap-0.5">
        {sections.map(([name, to]) => (
          <Link
            key={to}
            to={to}
            aria-current={at.startsWith(to) ? "page" : undefined}
            className={`${to === "/outbox" ? "hidden sm:flex" : "flex"} items-center border-b-2 px-1.5 pt-0.5 sm:px-2.5 lg:px-3 ${at.startsWith(to) ? "border-main font-semibold text-main" : "border-transparent text-ink hover:border-rule-strong"}`}
          >
            {name}
          </Link>
        ))}
      </nav>
      <div className="ml-auto flex items-center gap-1.5 sm:gap-3">
        <button
          type="button"
          onClick={onFind}
          aria-label="Find"
          className="flex h-8 items-center gap-2 rounded-sm border border-rule-strong bg-sheet px-2 whitespace-nowrap text-ink-soft hover:text-ink lg:w-60"
        >
          <Search size={15} aria-hidden className="shrink-0" />
          <span className="hidden lg:inline">Find people, templates</span>
          <kbd className="ml-auto hidden font-sans text-xs lg:inline">Ctrl K</kbd>
        </button>
        <button
          type="button"
          onClick={onWrite}
          className="flex h-8 items-center gap-1.5 rounded-sm bg-main px-2.5 font-semibold text-on-main"
        >
          <PenLine size={15} aria-hidden />
          <span className="hidden sm:inline">Write</span>
          <span className="sr-only sm:hidden">Write</span>
        </button>
        <Account me={me} onKeys={onKeys} />
      </div>
    </header>
  );
}

function Account({ me, onKeys }: { me: Schemas["Me"]; onKeys: () => void }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const signOut = async () => {
    await api.DELETE("/api/session");
    queries.clear();
    window.location.assign("/");
  };
  const items: [string, () => void][] = [
    ["Outbox", () => go("/outbox")],
    ["My profile and signature", () => go("/me")],
    ["Do not contact", () => go("/opt-outs")],
    ["Post office", () => go("/post-office")],
    ["Import people", () => go("/people/import")],
    ["Team and fields", () => go("/fields")],
    ...(me.role === "administrator" ? [["Settings", () => go("/settings")] as [string, () => void]] : []),
    [
      currentTheme() === "dark" ? "Light theme" : "Dark theme",
      () => setTheme(currentTheme() === "dark" ? "light" : "dark"),
    ],
    ["Keyboard shortcuts", onKeys],
    ["Sign out", signOut],
  ];
  return (
    <Menu>
      <MenuButton
        aria-label={`Account of ${me.name}`}
        className="flex size-8 items-center justify-center rounded-sm border border-main font-serif text-sm font-semibold text-main"
      >
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
