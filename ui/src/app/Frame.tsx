import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { Outlet, useMatch, useNavigate } from "react-router";
import { Toaster, toast } from "sonner";
import { $api, api, noAnswer, session, statusOf, wordsOf } from "../api/client";
import { Loading } from "../components/Loading";
import { ProblemText } from "../components/ProblemText";
import { Held } from "../features/letters/Held";
import { OnHold } from "../features/letters/OnHold";
import { SignIn } from "../features/session/SignIn";
import { DueTasks } from "./DueTasks";
import { useCtrlKey, useKeys } from "./keys";
import { LeaveGuard } from "./LeaveGuard";
import { Masthead } from "./Masthead";
import { News } from "./News";
import { useScreenKeys } from "./screenKeys";
import { keepTyping } from "./typedAhead";
import { type Start, WritingContext } from "./writing";

const KeysHelp = lazy(() => import("./KeysHelp").then((m) => ({ default: m.KeysHelp })));
const Find = lazy(() => import("../features/find/Find").then((m) => ({ default: m.Find })));
const PickTemplate = lazy(() => import("../features/find/PickTemplate").then((m) => ({ default: m.PickTemplate })));

export function Frame() {
  const queries = useQueryClient();
  const state = $api.useQuery("get", "/api/session/state");
  const me = $api.useQuery("get", "/api/session", undefined, { enabled: state.data?.signedIn === true });
  const out = useSyncExternalStore(session.subscribe, session.isOut);
  const [finding, setFinding] = useState(false);
  const [keys, setKeys] = useState(false);
  const [start, setStart] = useState<Start | null>(null);
  const here = useRef<Start | null>(null);
  const go = useNavigate();
  const signedIn = me.data !== undefined;

  const begin = useCallback(
    async (s: Start) => {
      if (!s.personId || !s.templateId) {
        keepTyping(() => setStart(null));
        return setStart(s);
      }
      setStart(null);
      const { data, error } = await api
        .POST("/api/letters", { body: { ...s, personId: s.personId, templateId: s.templateId, fitting: true } })
        .catch(noAnswer);
      if (data) go(`/letters/${data.id}`);
      else toast.error(wordsOf(error));
    },
    [go],
  );
  const writing = useMemo(() => ({ write: begin, here }), [begin]);
  // A person's page that is still on its way is known by its address.
  const personId = Number(useMatch("/people/:id")?.params.id) || undefined;
  const write = () => begin(here.current ?? (personId ? { personId } : {}));
  useCtrlKey("k", () => signedIn && setFinding(true));
  useKeys({ w: () => signedIn && write(), "?": () => setKeys(true) });
  useScreenKeys();

  const problem = state.error ?? (statusOf(me.error) === 401 ? null : me.error);
  if (problem) {
    return (
      <div className="mx-auto max-w-xl p-10">
        <ProblemText error={problem} />
      </div>
    );
  }
  if (state.isPending || (state.data?.signedIn && me.isPending)) return <Loading />;
  if (!me.data) return <SignIn onDone={() => queries.invalidateQueries()} />;
  return (
    <div className="flex h-full flex-col">
      <a
        href="#sheet"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:m-2 focus:bg-sheet focus:p-2"
      >
        Skip to content
      </a>
      <Masthead me={me.data} onFind={() => setFinding(true)} onWrite={write} onKeys={() => setKeys(true)} />
      <Held />
      <OnHold mayLet={me.data.may.editShared} />
      <News />
      <DueTasks />
      <LeaveGuard />
      <main id="sheet" className="min-h-0 flex-1 overflow-auto outline-none" tabIndex={-1}>
        <WritingContext value={writing}>
          <Outlet />
        </WritingContext>
        <Suspense>
          {finding && (
            <Find mode="find" onClose={() => setFinding(false)} onWrite={(personId) => begin({ personId })} />
          )}
          {start && !start.personId && (
            <Find
              mode="write"
              // It also closes when somebody was chosen.
              onClose={() => setStart((s) => (s?.personId ? s : null))}
              onWrite={(personId) => begin({ ...start, personId })}
            />
          )}
          {start?.personId && !start.templateId && (
            <PickTemplate personId={start.personId} dealId={start.dealId} onClose={() => setStart(null)} />
          )}
          {keys && <KeysHelp onClose={() => setKeys(false)} />}
        </Suspense>
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
