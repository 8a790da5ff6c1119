import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { noAnswer, wordsOf } from "./client";

type Answer<Out> = { data?: Out; error?: unknown };

/**
 * The way to write to the server: whether it is under way, and in words what was wrong with the last try. While one is
 * under way another is not begun: a button that is pressed twice writes once. `done` is told what came of it.
 */
export function useWrite<In = void, Out = unknown>(
  act: (input: In) => Promise<Answer<Out>>,
  done?: (out: Out, input: In) => unknown,
) {
  const busy = useRef(false);
  const { mutateAsync, isPending, error, reset } = useMutation({
    networkMode: "always", // that there is no network is for the server to say: it may be this machine
    mutationFn: async (input: In) => {
      const answer = await act(input).catch(noAnswer as () => Answer<Out>);
      if (answer.error !== undefined) throw new Failed(answer.error);
      await done?.(answer.data as Out, input);
    },
  });
  /** Tells whether it was written. */
  const write = async (input: In): Promise<boolean> => {
    if (busy.current) return false;
    busy.current = true;
    return mutateAsync(input)
      .then(
        () => true,
        () => false,
      )
      .finally(() => {
        busy.current = false;
      });
  };
  const failed = error instanceof Failed ? error.answer : error;
  return { write, busy: isPending, problem: error ? wordsOf(failed) : "", failed, forget: reset };
}

class Failed extends Error {
  constructor(readonly answer: unknown) {
    super("the server refused it");
  }
}
