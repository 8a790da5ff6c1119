import { keepPreviousData } from "@tanstack/react-query";
import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { PageFrame } from "../../components/PageFrame";
import { Tabs } from "../../components/Tabs";

/** How a stationery looks around a template, or around a few words. */
export function StationeryPreview({ input }: { input: Schemas["StationeryIn"] }) {
  const [around, setAround] = useState(0);
  const [look, setLook] = useState<"desktop" | "phone">("desktop");
  const templates = $api.useQuery("get", "/api/templates", { params: { query: { state: "ready", limit: 500 } } });
  const preview = $api.useQuery(
    "post",
    "/api/stationery/preview",
    { body: { ...input, name: input.name || "x", ...(around ? { templateId: around } : {}) } },
    { placeholderData: keepPreviousData, staleTime: 0 },
  );
  return (
    <section aria-label="Preview" className="min-w-0">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <label className="min-w-0 text-sm">
          <span className="text-ink-soft">Sample </span>
          <select
            value={around}
            onChange={(e) => setAround(Number(e.target.value))}
            className="max-w-56 border-b border-rule-strong bg-transparent py-0.5"
          >
            <option value={0}>a few words</option>
            {templates.data?.templates.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
              </option>
            ))}
          </select>
        </label>
        <Tabs
          label="Show on"
          choices={[
            ["desktop", "Desktop"],
            ["phone", "Phone"],
          ]}
          value={look}
          onChange={setLook}
        />
      </div>
      {preview.data && (
        <div className={`overflow-hidden border border-rule ${look === "phone" ? "max-w-[390px]" : ""}`}>
          <PageFrame
            outside
            key={look}
            html={preview.data.html}
            title="Preview of the stationery"
            scale={look === "phone" ? 1 : 0.72}
          />
        </div>
      )}
    </section>
  );
}
