import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";

/**
 * Makes a formatted wording of a typed one. What is typed meanwhile is not lost: it is made anew of the words as they
 * stand then.
 */
export async function formatted(
  typed: () => { subject?: string; body: string },
): Promise<Schemas["FormattedOut"] | undefined> {
  for (;;) {
    const { subject, body } = typed();
    const { data, error } = await api
      .POST("/api/templates/formatted", { body: { body, ...(subject === undefined ? {} : { subject }) } })
      .catch(noAnswer);
    if (!data) {
      toast.error(wordsOf(error));
      return undefined;
    }
    const now = typed();
    if (now.subject === subject && now.body === body) return data;
  }
}
