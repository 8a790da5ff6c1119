import type { Schemas } from "../../api/client";
import { fonts } from "../../editor/marks";

type Attrs = Schemas["Document"]["attrs"];

/** How the sheet of a stationery looks: font, background, where it stands. */
export function PageLook({
  attrs,
  mayEdit,
  onChange,
}: {
  attrs: Attrs;
  mayEdit: boolean;
  onChange: (change: Partial<Attrs>) => void;
}) {
  return (
    <fieldset disabled={!mayEdit} className="mb-5 flex flex-wrap items-end gap-x-6 gap-y-3 text-sm">
      <legend className="mb-1 font-semibold text-ink-soft">Page</legend>
      <label>
        <span className="block text-ink-soft">Font</span>
        <select
          value={attrs.font ?? ""}
          onChange={(e) => onChange({ font: e.target.value })}
          className="border-b border-rule-strong bg-sheet py-1"
        >
          <option value="">as in the letter</option>
          {fonts.map((f) => (
            <option key={f}>{f}</option>
          ))}
        </select>
      </label>
      <label className="flex items-center gap-2">
        <span className="text-ink-soft">Background</span>
        <input
          type="color"
          value={attrs.background || "#ffffff"}
          onChange={(e) => onChange({ background: e.target.value })}
          className="h-6 w-10"
        />
      </label>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={attrs.align === "center"}
          onChange={(e) => onChange({ align: e.target.checked ? "center" : "" })}
          className="accent-main"
        />
        centred in the window
      </label>
    </fieldset>
  );
}
