import type { Editor } from "@tiptap/react";
import { type ReactNode, useState } from "react";
import { PictureDialog } from "./PictureDialog";

/** Asks for a picture and puts it where the cursor was. Give the dialog a place on the screen. */
export function usePictures(editor: Editor | null): {
  ask: () => void;
  take: (files: File[]) => void;
  dialog: ReactNode;
} {
  const [asked, setAsked] = useState<{ file?: File; at: number } | null>(null);
  const at = () => editor?.state.selection.to ?? 0;
  const dialog = asked && editor && (
    <PictureDialog
      first={asked.file}
      onClose={() => {
        setAsked(null);
        editor.commands.focus(asked.at);
      }}
      onPut={(attrs) => {
        setAsked(null);
        editor.chain().focus(asked.at).insertContent({ type: "image", attrs }).run();
      }}
    />
  );
  return {
    ask: () => setAsked({ at: at() }),
    take: (files) => files[0] && setAsked({ file: files[0], at: at() }),
    dialog,
  };
}
