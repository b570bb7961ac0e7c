// Walking a list that comes page by page: forward by the server's own mark, back by those walked before.
import { useState } from 'react';

export type Pages = {
  /** The mark after which the shown page begins; undefined on the first. */
  readonly after: string | undefined;
  readonly isFirst: boolean;
  readonly forward: (mark: string) => void;
  readonly back: () => void;
  /** To the first page, when what is listed changes. */
  readonly begin: () => void;
};

export function usePages(): Pages {
  const [marks, setMarks] = useState<readonly string[]>([]);
  return {
    after: marks.at(-1),
    isFirst: marks.length === 0,
    forward: (mark) => setMarks([...marks, mark]),
    back: () => setMarks(marks.slice(0, -1)),
    begin: () => setMarks([]),
  };
}

/** `words` say what lies before and behind, such as "Newer" and "Older". */
export function Pager({
  pages,
  next,
  words: [before, behind] = ['Previous', 'Next'],
  className = 'pt-3',
}: {
  pages: Pages;
  next: string | null | undefined;
  words?: readonly [string, string];
  className?: string;
}) {
  return (
    <div className={`flex gap-2 ${className}`}>
      {!pages.isFirst && (
        <button className="act" onClick={pages.back}>
          {before}
        </button>
      )}
      {next && (
        <button className="act" onClick={() => pages.forward(next)}>
          {behind}
        </button>
      )}
    </div>
  );
}
