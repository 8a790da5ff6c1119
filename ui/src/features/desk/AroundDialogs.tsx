import { toast } from "sonner";
import { api, noAnswer, wordsOf } from "../../api/client";
import { Colleagues } from "../deals/Colleagues";
import { AskDialog } from "./AskDialog";
import { AttachDialog } from "./AttachDialog";
import { CopiesDialog } from "./CopiesDialog";
import { ToDialog } from "./ToDialog";
import type { Doc, Letter, Wording } from "./useDraft";
import { WhenDialog } from "./WhenDialog";
import type { When } from "./words";

/** What stands around a letter and has a dialog. */
export type Around = "to" | "copies" | "ask" | "files" | "when";

type Props = {
  open: string | null;
  letter: Letter;
  when: When;
  /** Saves the wording with something around it; gives what is wrong, or "". */
  around: (save: (w: Wording) => Promise<{ data?: Letter; error?: unknown }>, shown?: boolean) => Promise<string>;
  onWhen: (when: When) => void;
  /** Puts blocks into the letter. */
  onPut: (content: Doc["content"]) => void;
  onClose: () => void;
};

/** The dialogs of what stands around a letter: to whom, copies, questions, files, when. */
export function AroundDialogs({ open, letter, when, around, onWhen, onPut, onClose }: Props) {
  const path = { params: { path: { id: letter.id } } };
  return (
    <>
      {open === "ask" && (
        <AskDialog
          letter={letter}
          onAsk={async (asked) => {
            const { data, error } = await api
              .POST("/api/letters/{id}/questions", { ...path, body: asked })
              .catch(noAnswer);
            if (!data) return wordsOf(error);
            onPut(data.content);
            return "";
          }}
          onClose={onClose}
        />
      )}
      {open === "to" && letter.internal && (
        <Colleagues
          title="To which colleagues"
          chosen={[letter.toEmail, ...letter.alsoTo.map((a) => a.email)]}
          onKeep={async (colleagues) => {
            const problem = await around((w) =>
              api.POST("/api/letters/{id}/colleagues", { ...path, body: { ...w, colleagues } }),
            );
            if (problem) toast.error(problem);
            else onClose();
          }}
          onClose={onClose}
        />
      )}
      {open === "to" && !letter.internal && (
        <ToDialog
          letter={letter}
          onKeep={(to) =>
            around((w) => api.POST("/api/letters/{id}/addressee", { ...path, body: { ...w, ...to } }), true)
          }
          onClose={onClose}
        />
      )}
      {open === "copies" && (
        <CopiesDialog
          letter={letter}
          onKeep={(e) => around((w) => api.POST("/api/letters/{id}/envelope", { ...path, body: { ...w, ...e } }))}
          onClose={onClose}
        />
      )}
      {open === "files" && (
        <AttachDialog
          letter={letter}
          onKeep={(attachments) =>
            around((w) => api.POST("/api/letters/{id}/attachments", { ...path, body: { ...w, attachments } }))
          }
          onLink={async (documentId) => {
            const { data, error } = await api
              .POST("/api/letters/{id}/document-link", { ...path, body: { documentId } })
              .catch(noAnswer);
            if (!data) return wordsOf(error);
            onPut(data.content);
            return "";
          }}
          onClose={onClose}
        />
      )}
      {open === "when" && (
        <WhenDialog
          letter={letter}
          when={when}
          onKeep={onWhen}
          onTracked={(on) => around((w) => api.PUT("/api/letters/{id}/tracked", { ...path, body: { ...w, on } }))}
          onHold={() => around((w) => api.PUT("/api/letters/{id}", { ...path, body: w }))}
          onClose={onClose}
        />
      )}
    </>
  );
}
