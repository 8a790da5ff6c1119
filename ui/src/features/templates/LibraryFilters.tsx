import { $api } from "../../api/client";
import { Select } from "../../components/Select";
import type { Chosen } from "../library/useLibrary";

/** Which templates are shown, and in what order. */
export function LibraryFilters({ chosen }: { chosen: Chosen }) {
  const tags = $api.useQuery("get", "/api/tags").data ?? [];
  return (
    <>
      <Select
        label="State"
        value={chosen.state}
        choices={[
          ["", "any state"],
          ["ready", "ready"],
          ["draft", "draft"],
          ["withdrawn", "withdrawn"],
        ]}
        onChange={(state) => chosen.set({ state })}
      />
      <Select
        label="Fits"
        value={chosen.kind}
        choices={[
          ["", "for any record"],
          ["lead", "for leads"],
          ["contact", "for contacts"],
          ["deal", "for deals"],
        ]}
        onChange={(kind) => chosen.set({ kind })}
      />
      {tags.length > 0 && (
        <Select
          label="Tag"
          value={chosen.tag}
          choices={[["", "any tag"], ...tags.map((t) => [t, `#${t}`] as const)]}
          onChange={(tag) => chosen.set({ tag })}
        />
      )}
      <Select
        label="Order"
        value={chosen.sort}
        choices={[
          ["", chosen.q ? "best fit first" : chosen.view === "folder" ? "our order" : "by name"],
          ["name", "by name"],
          ["last", "last sent"],
          ["used", "most sent"],
          ["changed", "last changed"],
          ["order", "our order"],
        ]}
        onChange={(sort) => chosen.set({ sort })}
      />
    </>
  );
}
