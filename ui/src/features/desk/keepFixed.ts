import { toast } from "sonner";
import { KeepFixed } from "../../editor/fixed";

/** Says on the screen why fixed wording stays as it is. */
export const keepFixed = KeepFixed.configure({
  onRefused: () =>
    toast.info("This wording is fixed by the template and can’t be changed. You can write before or after it.", {
      id: "fixed wording",
    }),
});
