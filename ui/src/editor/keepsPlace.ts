import { Extension } from "@tiptap/core";
import { Plugin } from "@tiptap/pm/state";

/**
 * Has the cursor where it was as soon as the program gives a letter the focus, as when a dialog closes. The browser puts
 * it at the beginning and ProseMirror back only 20 ms later: what is typed in between would go to the wrong place.
 */
export const KeepsPlace = Extension.create({
  name: "keepsPlace",
  addProseMirrorPlugins() {
    let pressed = false; // the place is the one that was pressed
    return [
      new Plugin({
        props: {
          handleDOMEvents: {
            mousedown: () => {
              pressed = true;
              setTimeout(() => {
                pressed = false;
              });
              return false;
            },
            focus: (view) => {
              if (!pressed) view.focus();
              return false;
            },
          },
        },
      }),
    ];
  },
});
