import { toast } from "sonner";
import { $api, api, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { ProblemText } from "../../components/ProblemText";
import { TextForm } from "./TextForm";
import type { TemplateDraft } from "./useTemplate";

type Props = { draft: TemplateDraft; fields: Schemas["FieldInfo"][] };

/** The plain-text part: made by itself, or taken over by hand. */
export function TextPart({ draft, fields }: Props) {
  const { text, set, settled, notes, stored } = draft;
  const { textPart: _, textOf: __, ...automatic } = settled;
  const own = $api.useQuery("post", "/api/templates/text-part", { body: automatic }, { staleTime: 0 });
  const byHand = text.textPart !== undefined;
  const outdated = notes.some((n) => n.code === "textpart");
  const now = async () => {
    const { data, error } = await api.POST("/api/templates/text-part", { body: automatic });
    if (error) toast.error(wordsOf(error));
    return data?.text;
  };
  const take = async () => {
    const made = await now();
    if (made !== undefined) set({ textPart: made, textOf: made });
  };
  const stillRight = async () => {
    const made = await now();
    if (made !== undefined) set({ textOf: made });
  };
  return (
    <section aria-label="Plain-text part">
      <div className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule pb-3">
        <p className="min-w-0 flex-1 text-sm text-ink-soft">
          {byHand
            ? "Written by hand. Email programs that don’t show HTML show this."
            : "Made automatically from the letter. Email programs that don’t show HTML show this."}
        </p>
        {stored.mayEdit &&
          (byHand ? (
            <Button onClick={() => set({ textPart: undefined, textOf: "" })}>Make it automatically</Button>
          ) : (
            <Button onClick={take}>Write it by hand</Button>
          ))}
      </div>
      {outdated && (
        <p role="alert" className="mb-4 border-l-3 border-advice bg-advice-soft px-3 py-2 text-sm">
          The letter was changed since this was written. Look whether it still says the same.{" "}
          <button type="button" className="text-main underline" onClick={stillRight}>
            It still fits
          </button>
        </p>
      )}
      <ProblemText error={own.error} />
      {byHand ? (
        <TextForm
          label="Plain-text part"
          hint="The letter as plain text. Type { for merge fields."
          readOnly={!stored.mayEdit}
          text={text.textPart ?? ""}
          fields={fields}
          notes={[]}
          className="text-[1.05rem]"
          onChange={(textPart) => set({ textPart })}
          onReady={() => {}}
          onFocus={() => {}}
        />
      ) : (
        <div className="letter-text text-base!">{own.data?.text}</div>
      )}
    </section>
  );
}
