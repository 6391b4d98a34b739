/** Letters at the end that always stay. */
const TAIL = 20;

/**
 * A name or path on one line: what does not fit is left out in its middle, since both ends tell it from
 * others.
 */
export function Middle({ text, className = '' }: { text: string; className?: string }) {
  const [head, tail] = splitForMiddle(text);
  return (
    <span className={`flex min-w-0 ${className}`} title={text}>
      <span className="truncate">{head}</span>
      <span className="shrink-0 whitespace-pre">{tail}</span>
    </span>
  );
}

/** The end is the file's name where that is short, else its last letters. */
export function splitForMiddle(text: string): [string, string] {
  if (text.length <= TAIL) return ['', text];
  const name = /[^/\\]+$/.exec(text)?.[0] ?? '';
  const kept = name.length > 0 && name.length <= TAIL ? name.length : TAIL;
  return [text.slice(0, -kept), text.slice(-kept)];
}
