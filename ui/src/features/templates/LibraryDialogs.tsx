import { $api, api } from "../../api/client";
import { DeleteTemplate } from "../library/DeleteTemplate";
import { MoveDialog } from "../library/MoveDialog";
import { RightsDialog } from "../library/RightsDialog";
import { type Folder, type Line, useChange } from "../library/useLibrary";
import type { Asked } from "./useLibraryActs";

type Props = {
  asked: Asked | null;
  folders: Folder[];
  onMove: (line: Line, to: number | undefined) => void;
  onClose: () => void;
};

/** What is asked about a template of the library. */
export function LibraryDialogs({ asked, folders, onMove, onClose }: Props) {
  return (
    <>
      {asked?.what === "move" && (
        <MoveDialog
          title={`Move “${asked.line.name}” into`}
          folders={folders}
          now={asked.line.folderId}
          outside="No folder"
          onMove={(to) => onMove(asked.line, to)}
          onClose={onClose}
        />
      )}
      {asked?.what === "rights" && <TemplateRights line={asked.line} onClose={onClose} />}
      {asked?.what === "delete" && <DeleteTemplate id={asked.line.id} name={asked.line.name} onClose={onClose} />}
    </>
  );
}

function TemplateRights({ line, onClose }: { line: Line; onClose: () => void }) {
  const change = useChange();
  const t = $api.useQuery("get", "/api/templates/{id}", { params: { path: { id: line.id } } }, { staleTime: 0 });
  if (!t.data || t.isFetching) return null;
  return (
    <RightsDialog
      title={`Who can use “${line.name}”`}
      own={t.data.own}
      inside={line.folderId ? "its folder" : "the library: everybody"}
      onStore={(body) =>
        change(api.PUT("/api/templates/{id}/rights", { params: { path: { id: line.id } }, body }), "Stored.")
      }
      onClose={onClose}
    />
  );
}
