import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useState, useSyncExternalStore } from "react";
import { Outlet, useMatch } from "react-router";
import { Toaster } from "sonner";
import { $api, session, statusOf } from "../api/client";
import { Loading } from "../components/Loading";
import { ProblemText } from "../components/ProblemText";
import { Held } from "../features/letters/Held";
import { SignIn } from "../features/session/SignIn";
import { KeysHelp } from "./KeysHelp";
import { useCtrlKey, useKeys } from "./keys";
import { Masthead } from "./Masthead";

const Find = lazy(() => import("../features/find/Find").then((m) => ({ default: m.Find })));
const PickTemplate = lazy(() => import("../features/find/PickTemplate").then((m) => ({ default: m.PickTemplate })));

export function Frame() {
  const queries = useQueryClient();
  const me = $api.useQuery("get", "/api/session");
  const out = useSyncExternalStore(session.subscribe, session.isOut);
  const [finding, setFinding] = useState<"find" | "write" | null>(null);
  const [keys, setKeys] = useState(false);
  const [writeTo, setWriteTo] = useState<number | null>(null);
  const person = useMatch("/people/:id");
  const here = Number(person?.params.id) || null;
  const signedIn = me.data !== undefined;

  const write = () => (here ? setWriteTo(here) : setFinding("write"));
  useCtrlKey("k", () => signedIn && setFinding("find"));
  useKeys({ w: () => signedIn && write(), "?": () => setKeys(true) });

  if (me.isPending) return <Loading />;
  if (me.error && statusOf(me.error) !== 401) {
    return (
      <div className="mx-auto max-w-xl p-10">
        <ProblemText error={me.error} />
      </div>
    );
  }
  if (!me.data) return <SignIn onDone={() => queries.invalidateQueries()} />;
  return (
    <div className="flex h-full flex-col">
      <a
        href="#sheet"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:m-2 focus:bg-sheet focus:p-2"
      >
        Skip to the sheet
      </a>
      <Masthead me={me.data} onFind={() => setFinding("find")} onWrite={write} onKeys={() => setKeys(true)} />
      <Held />
      <main id="sheet" className="min-h-0 flex-1 overflow-auto" tabIndex={-1}>
        <Outlet />
        <Suspense>
          {finding && (
            <Find
              mode={finding}
              onClose={() => setFinding(null)}
              onWrite={(id) => {
                setFinding(null);
                setWriteTo(id);
              }}
            />
          )}
          {writeTo !== null && <PickTemplate personId={writeTo} onClose={() => setWriteTo(null)} />}
        </Suspense>
        {keys && <KeysHelp onClose={() => setKeys(false)} />}
        {out && (
          <SignIn
            over
            onDone={() => {
              session.set(false);
              queries.invalidateQueries();
            }}
          />
        )}
      </main>
      <Toaster position="bottom-left" theme="system" toastOptions={{ style: { borderRadius: 3 } }} />
    </div>
  );
}
