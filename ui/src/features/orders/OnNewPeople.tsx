import { $api } from "../../api/client";
import { plural } from "../../components/plural";

/** Says before people are added which standing orders act on each of them. */
export function OnNewPeople({ people }: { people: number }) {
  const orders = $api.useQuery("get", "/api/orders-on-new-people", {}, { staleTime: 0 }).data ?? [];
  if (people === 0 || orders.length === 0) return null;
  return (
    <section aria-label="Standing orders" className="my-3 border border-advice bg-advice-soft px-4 py-2">
      <p className="font-semibold">
        {plural(orders.length, "standing order acts", "standing orders act")} on each new person, a few at a time:
      </p>
      <ul className="list-disc pl-5">
        {orders.map((o) => (
          <li key={o}>{o}</li>
        ))}
      </ul>
    </section>
  );
}
