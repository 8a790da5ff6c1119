import { toast } from "sonner";
import { noAnswer, wordsOf } from "./client";

/** Says that what is being written on was deleted elsewhere or taken away, with the way back; nothing that was written is lost. */
export function tellGone(what: string, putBack: () => Promise<{ error?: unknown }>) {
  const back = async () => {
    const { error } = await putBack().catch(noAnswer);
    if (error !== undefined) return void toast.error(wordsOf(error));
    toast.success("It’s back. Now save your changes.");
  };
  toast.error(
    `${what} was deleted in another window, or is no longer shared with you. Your words are still here, and not saved.`,
    {
      duration: 60_000,
      action: { label: "Put it back", onClick: () => void back() },
    },
  );
}
