// A problem in words, with the number of its request where somebody will have to look it up.
import type { Problem } from '#api/shapes.ts';

/** The request's number as it stands in the log; only faults need it, a refusal says itself what would be right. */
export const requestOf = ({ status, instance }: Pick<Problem, 'status' | 'instance'>): string | null =>
  status >= 500 ? (instance?.split(':').at(-1) ?? null) : null;

export function SaidProblem({ problem, text = problem.detail }: { problem: Problem; text?: string }) {
  const request = requestOf(problem);
  return (
    <>
      ✕ {text}
      {request !== null && (
        <span className="quiet">
          {' '}
          Request <span className="serial">{request}</span>
        </span>
      )}
    </>
  );
}

/** What a press led to, where it was refused; nothing otherwise. */
export function ErrorLine({ error }: { error: unknown }) {
  return error ? (
    <p role="alert" className="mt-2 text-missed">
      <SaidProblem problem={error as Problem} />
    </p>
  ) : null;
}
