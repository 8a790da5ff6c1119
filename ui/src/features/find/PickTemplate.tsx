import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, wordsOf } from "../../api/client";
import { openWords, useOpenLetters } from "../letters/OpenLetters";
import { blank } from "./blank";
import { type Choice, Picker } from "./Picker";

/** Which template for this person? */
export function PickTemplate({
  personId,
  dealId,
  onClose,
}: {
  personId: number;
  dealId?: number | undefined;
  onClose: () => void;
}) {
  const go = useNavigate();
  const person = $api.useQuery("get", "/api/people/{id}", { params: { path: { id: personId } } });
  const drafts = (useOpenLetters({ person: personId }).data ?? []).filter((l) => l.state === "draft");
  // Their ids are told from those of templates by the sign.
  const goOn = drafts.slice(0, 3).map((l) => ({
    ...blank,
    id: -l.id,
    name: `Go on with the ${openWords(l).replace("Draft", "draft")}`,
    whenToUse: l.subject || "No subject yet",
    subject: l.subject,
    act: "Go on with the draft",
  }));
  const start = async (c: Choice, deal: number) => {
    if (c.id < 0) {
      onClose();
      go(`/letters/${-c.id}`);
      return;
    }
    const { data, error } = await api.POST("/api/letters", {
      body: { personId, ...(c.id ? { templateId: c.id } : {}), ...(deal ? { dealId: deal } : {}) },
    });
    if (error) return void toast.error(wordsOf(error));
    onClose();
    go(`/letters/${data.id}`);
  };
  return (
    <Picker
      title={`Write to ${person.data?.name ?? "…"}`}
      personId={personId}
      {...(dealId && { dealId })}
      first={goOn}
      others={[blank]}
      act="Use this template"
      onPick={start}
      onClose={onClose}
    />
  );
}
