import type { Middleware } from "openapi-fetch";

/** For how long the same request means the same act: pressed twice, or tried again since nothing was heard. */
const pressedTwice = 1500;
const triedAgain = 60_000;

type Act = { key: string; until: number; unheard?: boolean };

const acts = new Map<string, Act>();
const open = new Map<string, string>();

function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (n) => n.toString(16).padStart(2, "0")).join("");
}

function end(id: string, forMs: number, unheard = false) {
  const what = open.get(id);
  open.delete(id);
  const act = what === undefined ? undefined : acts.get(what);
  if (act) Object.assign(act, { until: performance.now() + forMs, unheard });
}

/**
 * Gives each intended act a key of its own: what is asked for again while the answer is on its way, or a moment later,
 * is the same act, and the server does it once.
 */
export const onceEach: Middleware = {
  async onRequest({ request, id }) {
    if (request.method === "GET") return;
    const now = performance.now();
    const ended = (act: Act) => Number.isFinite(act.until) && (!act.unheard || act.until < now);
    if (request.method !== "POST" || !request.headers.get("Content-Type")?.startsWith("application/json")) {
      for (const [what, act] of acts) if (ended(act)) acts.delete(what);
      return;
    }
    const what = `${request.url}\n${await request.clone().text()}`;
    // Once something else was done, the same is meant anew.
    for (const [other, act] of acts) if (ended(act) && (other !== what || act.until < now)) acts.delete(other);
    const act = acts.get(what) ?? { key: newKey(), until: 0 };
    act.until = Number.POSITIVE_INFINITY;
    acts.set(what, act);
    open.set(id, what);
    request.headers.set("Idempotency-Key", act.key);
    return request;
  },
  onResponse({ response, id }) {
    // What was refused is another act when it is tried again.
    if (response.status >= 500) end(id, triedAgain, true);
    else end(id, response.ok ? pressedTwice : 0);
  },
  onError({ id }) {
    end(id, triedAgain, true);
  },
};
