import { PenLine, Search } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { Link, useLocation } from "react-router";
import type { Schemas } from "../api/client";

const sections = [
  ["Today", "/today"],
  ["People", "/people"],
  ["Companies", "/companies"],
  ["Deals", "/deals"],
  ["Templates", "/templates"],
  ["Plans", "/plans"],
  ["Outbox", "/outbox"],
] as const;

const loadMenu = () => import("./AccountMenu");
const AccountMenu = lazy(() => loadMenu().then((m) => ({ default: m.AccountMenu })));

/** What lies in the section of the templates without saying so in its address. */
const besidePlans = /^\/(start|runs\/|orders\/)/;

const besideTemplates = ["/shelf", "/passages", "/stationery", "/documents", "/library", "/fields"];

type Props = { me: Schemas["Me"]; onFind: () => void; onWrite: () => void; onKeys: () => void };

export function Masthead({ me, onFind, onWrite, onKeys }: Props) {
  const { pathname } = useLocation();
  const at = besideTemplates.some((p) => pathname === p || pathname.startsWith(`${p}/`))
    ? "/templates"
    : besidePlans.test(pathname)
      ? "/plans"
      : pathname;
  return (
    <header className="flex shrink-0 flex-wrap items-stretch gap-x-1 border-b border-rule-strong bg-ground px-3 sm:h-12 sm:flex-nowrap sm:px-5">
      <Link to="/people" className="mr-2 flex items-center font-serif text-lg font-semibold text-main md:mr-5">
        Lucid Letter
      </Link>
      <nav
        aria-label="Sections"
        className="flex items-stretch gap-0.5 max-sm:order-last max-sm:-mx-1.5 max-sm:w-[calc(100%+0.75rem)] max-sm:justify-between"
      >
        {sections.map(([name, to]) => (
          <Link
            key={to}
            to={to}
            aria-current={at.startsWith(to) ? "page" : undefined}
            className={`flex items-center border-b-2 px-1.5 pt-0.5 max-sm:h-9 max-sm:px-0.5 max-sm:text-[0.95rem] sm:px-2 lg:px-3 ${at.startsWith(to) ? "border-main font-semibold text-main" : "border-transparent text-ink hover:border-rule-strong"}`}
          >
            {name}
          </Link>
        ))}
      </nav>
      <div className="ml-auto flex items-center gap-1.5 max-sm:h-11 sm:gap-3">
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

export const accountLook =
  "flex size-8 items-center justify-center rounded-sm border border-main font-serif text-sm font-semibold text-main";

/** The menu itself comes when somebody goes for it, so that the first screen need not wait for it. */
function Account({ me, onKeys }: { me: Schemas["Me"]; onKeys: () => void }) {
  const [wanted, setWanted] = useState(false);
  const button = (
    <button
      type="button"
      aria-label={`Account of ${me.name}`}
      aria-haspopup="menu"
      onPointerEnter={() => void loadMenu()}
      onClick={() => setWanted(true)}
      className={accountLook}
    >
      {me.firstName.charAt(0)}
      {me.lastName.charAt(0)}
    </button>
  );
  if (!wanted) return button;
  return (
    <Suspense fallback={button}>
      <AccountMenu me={me} open onKeys={onKeys} />
    </Suspense>
  );
}
