import { Link } from 'react-router';

export function NotFound() {
  return (
    <div className="p-8">
      <h1>There is no such page</h1>
      <p className="mt-2">
        <Link className="link-ink" to="/">
          Go to Today
        </Link>
        , or press / to find something.
      </p>
    </div>
  );
}
