import { Link, useRouteError } from "react-router";

export function NotFound() {
  return (
    <div className="mx-auto max-w-xl px-6 py-16">
      <h1 className="font-serif text-2xl">Page not found</h1>
      <p className="mt-3 text-ink-soft">The link may be out of date, or you may not have access.</p>
      <p className="mt-6">
        <Link className="text-main underline" to="/people">
          Go to People
        </Link>
      </p>
    </div>
  );
}

export function ErrorPage() {
  const error = useRouteError();
  console.error(error);
  return (
    <div className="mx-auto max-w-xl px-6 py-16" role="alert">
      <h1 className="font-serif text-2xl">Something went wrong on this page</h1>
      <p className="mt-3 text-ink-soft">
        What was saved is safe. Load the screen again; if it breaks again, go back and tell your administrator what you
        did.
      </p>
      <p className="mt-6 flex gap-6">
        <button type="button" className="text-main underline" onClick={() => window.location.reload()}>
          Reload
        </button>
        <a className="text-main underline" href="/people">
          Go to People
        </a>
      </p>
    </div>
  );
}
