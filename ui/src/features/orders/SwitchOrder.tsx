import { Switch } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { api, type Schemas, statusOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";

/** Whether an order acts. */
export function SwitchOrder({ order, disabled = false }: { order: Schemas["OrderOut"]; disabled?: boolean }) {
  const queries = useQueryClient();
  const fresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/orders"] });
  const flip = useWrite(
    async (on: boolean) => {
      const answer = await api.PUT("/api/orders/{id}/on", {
        params: { path: { id: order.id } },
        body: { on, version: order.version },
      });
      if (answer.error) {
        toast.error(
          statusOf(answer.error) === 409 && !answer.error.detail
            ? "It was changed meanwhile; look again."
            : (answer.error.detail ?? "It could not be switched."),
        );
        void queries.invalidateQueries({ queryKey: ["get", "/api/orders/{id}"] });
      }
      return answer;
    },
    async (out) => {
      toast.success(out.on ? "It is on: it acts on what happens from now on." : "It is off.");
      queries.setQueryData(["get", "/api/orders/{id}", { params: { path: { id: order.id } } }], out);
      await fresh();
    },
  );
  const may = order.on ? order.mayHalt : order.mayEdit;
  return (
    <span className="flex items-center gap-2">
      <Switch
        checked={order.on}
        disabled={!may || flip.busy || disabled}
        onChange={(on: boolean) => void flip.write(on)}
        aria-label={`${order.name} acts`}
        className="inline-flex h-5 w-9 items-center rounded-sm border border-rule-strong bg-ground px-0.5 data-checked:border-main data-checked:bg-main disabled:opacity-50"
      >
        <span
          aria-hidden
          className={`size-3.5 rounded-[2px] ${order.on ? "translate-x-3.5 bg-on-main" : "bg-rule-strong"}`}
        />
      </Switch>
      <span className={`w-6 text-sm ${order.on ? "font-semibold text-ok" : "text-ink-soft"}`}>
        {order.on ? "On" : "Off"}
      </span>
    </span>
  );
}
