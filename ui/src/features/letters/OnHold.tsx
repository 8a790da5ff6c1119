import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";

/** Says, on every screen, that nothing is sent and why; whoever may lets letters go again. */
export function OnHold({ mayLet }: { mayLet: boolean }) {
  const queries = useQueryClient();
  const hold = $api.useQuery("get", "/api/outbox/hold", {}, { refetchInterval: 60_000 });
  if (!hold.data?.why) return null;
  const go = async () => {
    const { error } = await api.DELETE("/api/outbox/hold").catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    toast.success("Letters are sent again.");
    await queries.invalidateQueries();
  };
  return (
    <section
      aria-label="Sending is on hold"
      className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-stop bg-stop-soft px-4 py-2 sm:px-6"
    >
      <p className="min-w-0 flex-1 max-sm:basis-full">
        <strong className="font-semibold">No letters are being sent.</strong> {hold.data.why}
      </p>
      {mayLet ? (
        <Button onClick={go}>Send them</Button>
      ) : (
        <span className="text-sm text-ink-soft">A team lead can let them go.</span>
      )}
    </section>
  );
}
