// What a view shows while it waits, or when its data cannot be had.
import type { ReactNode } from 'react';
import type { Problem } from '#api/shapes.ts';
import { SaidProblem } from '../parts/problem.tsx';

export function Waiting<T>({
  query,
  children,
}: {
  query: { data?: T; error?: unknown; refetch?: () => unknown };
  children: (data: T) => ReactNode;
}) {
  if (query.data !== undefined) return children(query.data);
  const problem = query.error as Problem | undefined;
  if (!problem)
    return (
      <p className="quiet p-6" role="status">
        Loading…
      </p>
    );
  return (
    <div className="p-6" role="alert">
      <p>
        <SaidProblem problem={problem} />
      </p>
      {query.refetch && problem.code !== 'not-allowed' && (
        <button className="act mt-2" onClick={() => void query.refetch?.()}>
          Try again
        </button>
      )}
    </div>
  );
}
