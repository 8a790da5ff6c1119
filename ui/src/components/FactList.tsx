/** Facts of a record that are read, across its whole width; what is empty is left out. */
export function FactList({ facts }: { facts: [label: string, value: string][] }) {
  return (
    <dl className="mt-3 grid grid-cols-2 gap-x-6 gap-y-2 sm:grid-cols-3 lg:grid-cols-5">
      {facts
        .filter(([, value]) => value)
        .map(([label, value]) => (
          <div key={label} className="min-w-0">
            <dt className="text-sm text-ink-soft">{label}</dt>
            <dd className="truncate" title={value}>
              {value}
            </dd>
          </div>
        ))}
    </dl>
  );
}
