/** The letter was changed elsewhere: which words count? */
export function Stale({ onMine, onTheirs }: { onMine: () => void; onTheirs: () => void }) {
  return (
    <div role="alert" className="flex flex-wrap items-center gap-4 border-b border-stop bg-stop-soft px-6 py-2">
      <p>This letter was changed in another window. Nothing was overwritten; your words are still here.</p>
      <button type="button" className="text-main underline" onClick={onMine}>
        Keep this version
      </button>
      <button type="button" className="text-main underline" onClick={onTheirs}>
        Use the other version
      </button>
    </div>
  );
}
