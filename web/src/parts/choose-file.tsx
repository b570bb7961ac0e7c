// A file picked from the machine one works on; picked anew, it is read anew.
export function ChooseFile({
  accept,
  onChoose,
}: {
  readonly accept: string;
  readonly onChoose: (file: File | undefined) => void;
}) {
  return (
    <label className="act mt-3">
      Choose the file…
      <input
        type="file"
        accept={accept}
        className="sr-only"
        aria-label="File"
        onChange={(e) => onChoose(e.target.files?.[0])}
      />
    </label>
  );
}
