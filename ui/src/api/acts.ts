import type { Middleware } from "openapi-fetch";

/** For how long the same request means the same act: pressed twice, or tried again since nothing was heard. */
const pressedTwice = 1500;
const triedAgain = 60_000;

const acts = new Map<string, { key: string; until: number }>();
const open = new Map<string, string>();

function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (n) => n.toString(16).padStart(2, "0")).join("");
}

function end(id: string, forMs: number) {
  const what = open.get(id);
  open.delete(id);
  const act = what === undefined ? undefined : acts.get(what);
  if (act) act.until = performance.now() + forMs;
}

/**
 * Gives each intended act a key of its own: what is asked for again while the answer is on its way, or a moment later,
 * is the same act, and the server does it once.
 */
export const onceEach: Middleware = {
  async onRequest({ request, id }) {
    if (request.method !== "POST" || !request.headers.get("Content-Type")?.startsWith("application/json")) return;
    const now = performance.now();
    for (const [what, act] of acts) if (act.until < now) acts.delete(what);
    const what = `${request.url}\n${await request.clone().text()}`;
    const act = acts.get(what) ?? { key: newKey(), until: 0 };
    act.until = Number.POSITIVE_INFINITY;
    acts.set(what, act);
    open.set(id, what);
    request.headers.set("Idempotency-Key", act.key);
    return request;
  },
  onResponse({ response, id }) {
    // What was refused is another act when it is tried again.
    end(id, response.ok ? pressedTwice : response.status >= 500 ? triedAgain : 0);
  },
  onError({ id }) {
    end(id, triedAgain);
  },
};
