/**
 * An entry of an edit log; `act` is the number of the first edit of its act, and one act is undone at once.
 */
export interface ActEntry {
  seq: number;
  act: number;
}

/** Where the cursor goes: along the acts by -1 or 1, or to an edit; within an act, to its end. */
export type CursorMove = { by: -1 | 1 } | { to: number };

/** How many edits are applied after a move: at least 0, at most all. */
export function moveCursor(log: readonly ActEntry[], cursor: number, move: CursorMove): number {
  const ends = [0, ...log.flatMap(({ seq, act }, i) => (log[i + 1]?.act === act ? [] : [seq]))];
  if ('to' in move) return Math.max(0, ends.find((end) => end >= move.to) ?? log.length);
  const index = ends.findLastIndex((end) => end <= cursor);
  // Within an act one step back leads to its beginning.
  const inside = ends[index] !== cursor && move.by < 0 ? 1 : 0;
  return ends[Math.min(ends.length - 1, Math.max(0, index + move.by + inside))];
}

/** Texts that are told of one act. */
const NAMED = 2;

/** What was done in one act: `Linked hull.png to maps/hull.png; Assigned ... and 3 more`. */
export function actInWords(texts: readonly string[]): string {
  const different = [...new Set(texts)];
  const more = different.length - NAMED;
  return `${different.slice(0, NAMED).join('; ')}${more > 0 ? ` and ${more} more` : ''}`;
}
