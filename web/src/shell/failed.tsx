// What is shown instead of a page that cannot be: what happened, and the way on. The rail stays beside it where only the page failed.
import { Link, useRouteError } from 'react-router';

/** As browsers say it when a script of the page cannot be fetched. */
const NOT_FETCHED = /dynamically imported module|module script failed|Unable to preload/i;

export function Failed() {
  const error = useRouteError();
  const said = error instanceof Error ? error.message : String(error);
  const again = (
    <button className="act-main" onClick={() => window.location.reload()}>
      Load it again
    </button>
  );
  return (
    <div className="p-8" role="alert">
      {NOT_FETCHED.test(said) ? (
        <>
          <h1>A part of this page did not arrive</h1>
          <p className="mt-2">The connection was lost, or Stavok was renewed while the page stood open.</p>
        </>
      ) : (
        <>
          <h1>This page cannot be shown</h1>
          <p className="mt-2">
            Something in it went wrong; what was saved is safe. If it happens again, tell whoever looks after Stavok
            what it said:
          </p>
          <p className="serial mt-2 max-w-3xl break-words">{said}</p>
        </>
      )}
      <p className="mt-4 flex items-baseline gap-4">
        {again}
        <Link className="link-ink" to="/">
          Go to Today
        </Link>
      </p>
    </div>
  );
}
