// Which of a list is shown: a row of words, one of them chosen.
export function Which<T extends string>({
  of,
  chosen,
  wordOf,
  onChoose,
}: {
  readonly of: readonly T[];
  readonly chosen: T;
  readonly wordOf: (one: T) => string;
  readonly onChoose: (one: T) => void;
}) {
  return (
    <div className="flex flex-wrap gap-x-4 gap-y-1 py-2" role="group" aria-label="Which">
      {of.map((one) => (
        <button
          key={one}
          aria-pressed={one === chosen}
          className={one === chosen ? 'font-semibold' : 'link-ink'}
          onClick={() => onChoose(one)}
        >
          {wordOf(one)}
        </button>
      ))}
    </div>
  );
}
