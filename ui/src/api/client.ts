import createFetch, { type Middleware } from "openapi-fetch";
import createClient from "openapi-react-query";
import { setClock } from "../app/clock";
import { onceEach } from "./acts";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["ErrorModel"];

/** Whether the server said that the session is over; the screen asks to sign in again on top of what is open. */
let signedOut = false;
let signedInTimes = 0;
const listeners = new Set<() => void>();

export const session = {
  isOut: () => signedOut,
  /** Which session this is, counted in this window. */
  now: () => signedInTimes,
  /** A request that was sent in a session was refused: that session is over, but not one that began since. */
  refused(sentIn: number) {
    if (sentIn === signedInTimes) session.set(true);
  },
  set(out: boolean) {
    if (!out) signedInTimes++;
    signedOut = out;
    for (const tell of listeners) tell();
  },
  subscribe(tell: () => void) {
    listeners.add(tell);
    return () => {
      listeners.delete(tell);
    };
  },
};

const sentIn = new Map<string, number>();
const watch: Middleware = {
  onRequest({ id }) {
    sentIn.set(id, session.now());
  },
  onError({ id }) {
    sentIn.delete(id);
  },
  onResponse({ response, request, id }) {
    const then = sentIn.get(id) ?? session.now();
    sentIn.delete(id);
    const now = response.headers.get("X-Clock");
    if (now) setClock(now);
    if (response.status === 401 && !new URL(request.url).pathname.endsWith("/api/session")) session.refused(then);
  },
};

export const api = createFetch<paths>({ baseUrl: "" });
api.use(watch, onceEach);
export const $api = createClient(api);

/** Stands for an answer when the program was not reached. */
export const noAnswer = () => ({ data: undefined, error: {} });

/** Says in words what went wrong with a request. */
export function wordsOf(error: unknown): string {
  if (error && typeof error === "object") {
    const problem = error as Partial<Problem>;
    if (problem.detail) return problem.detail;
  }
  return "Lucid Letter can’t be reached. Your text is still here; try again in a moment.";
}

export function statusOf(error: unknown): number {
  return (error as Partial<Problem> | null)?.status ?? 0;
}
