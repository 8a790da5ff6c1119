import { useParams, useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { TemplateSheet } from "./TemplateSheet";

const fresh: Schemas["TemplateOut"] = {
  id: 0,
  name: "",
  whenToUse: "",
  subject: "",
  subjectDoc: { type: "doc", attrs: { version: 1, body: "plain" }, content: [{ type: "paragraph" }] },
  language: "",
  kind: "plain",
  body: "Dear {{person.first_name}},\n\n\n\nKind regards,",
  state: "draft",
  owner: "",
  version: 0,
  updatedAt: "",
  tags: [],
  textOf: "",
  stationery: 0,
  mayNot: [],
  untracked: false,
  documents: [],
  own: { audience: { who: "" }, editors: { who: "" } },
  counts: { audience: { who: "" }, editors: { who: "" } },
  fits: ["lead", "contact", "deal"],
  notes: [],
  mayEdit: true,
  next: ["draft", "ready"],
  wordings: [],
};

export function TemplatePage() {
  const param = useParams().id;
  const folder = Number(useSearchParams()[0].get("folder")) || 0;
  const id = Number(param) || 0;
  const template = $api.useQuery(
    "get",
    "/api/templates/{id}",
    { params: { path: { id } } },
    { enabled: id > 0, staleTime: 0, gcTime: 0, refetchOnWindowFocus: false },
  );
  if (!param) return <TemplateSheet key="new" first={folder ? { ...fresh, folderId: folder } : fresh} />;
  if (template.error)
    return (
      <div className="p-6">
        <ProblemText error={template.error} />
      </div>
    );
  // A template that was looked at before may have changed since; what is edited is what is there now.
  if (!template.data || !template.isFetchedAfterMount) return <Loading />;
  return <TemplateSheet key={id} first={template.data} />;
}
