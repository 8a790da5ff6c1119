/** What was wrong with the last try, in words; nothing when nothing was. */
export function Problem({ children }: { children: string }) {
  return (
    children && (
      <p role="alert" className="text-sm text-stop">
        {children}
      </p>
    )
  );
}
