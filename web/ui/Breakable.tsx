/** Text whose paths and file names break behind their separators rather than in the middle of a word. */
export function Breakable({ text }: { text: string }) {
  const pieces = text.split(/(?<=[/\\_])(?=\S)/);
  return pieces.map((piece, i) => (i === 0 ? piece : [<wbr key={i} />, piece]));
}
