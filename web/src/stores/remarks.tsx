// What is wrong in a file, line by line; where there is more than fits, how much.
type Remark = { readonly line: number; readonly column: string; readonly message: string };

export function Remarks({ bad, wrong }: { bad: readonly Remark[]; wrong: number }) {
  return (
    <ul className="max-h-56 overflow-y-auto">
      {bad.map((b) => (
        <li key={`${b.line} ${b.column}`} className="text-missed">
          ✕ Line {b.line}
          {b.column && `, ${b.column}`}: {b.message}
        </li>
      ))}
      {wrong > bad.length && <li className="text-missed">✕ and {wrong - bad.length} more</li>}
    </ul>
  );
}
