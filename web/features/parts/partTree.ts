import type { Part } from '@kinkajou/core/asset/parts';
import type { Finding } from '@kinkajou/core/findings/finding';
import { createMatcher } from '@kinkajou/core/pattern';
import { type MarkKind, markOfSeverity } from '@/ui/Mark';

/** A part as a row of the tree. */
export interface PartRow {
  part: Part;
  depth: number;
  /** Parts directly below it. */
  children: number;
}

/**
 * Parts with their children below them, folded ones without; with a pattern, those whose names fit, all at
 * one depth.
 */
export function treeRows(
  parts: readonly Part[],
  { search = '', folded }: { search?: string; folded: ReadonlySet<string> },
): PartRow[] {
  const below = new Map<string | null, Part[]>();
  const keys = new Set(parts.map(({ key }) => key));
  for (const part of parts) {
    const parent = part.parent !== null && keys.has(part.parent) ? part.parent : null;
    const list = below.get(parent);
    if (list) list.push(part);
    else below.set(parent, [part]);
  }
  const childrenOf = ({ key }: Part) => below.get(key)?.length ?? 0;
  if (search.trim() !== '') {
    const fits = matcherOf(search.trim());
    return parts
      .filter(({ name }) => fits(name))
      .map((part) => ({ part, depth: 0, children: childrenOf(part) }));
  }
  const rows: PartRow[] = [];
  // By hand, since trees may be deeper than calls can be.
  const waiting = (below.get(null) ?? []).map((part) => ({ part, depth: 0 })).reverse();
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { part, depth } = next;
    rows.push({ part, depth, children: childrenOf(part) });
    if (!folded.has(part.key))
      for (const child of (below.get(part.key) ?? []).toReversed())
        waiting.push({ part: child, depth: depth + 1 });
  }
  return rows;
}

/**
 * A pattern as it is typed: without wildcards it may stand anywhere in a name, and one that is not finished
 * fits nothing.
 */
function matcherOf(search: string): (name: string) => boolean {
  try {
    const fits = createMatcher(/[*?[{/]/.test(search) ? search : `*${search}*`);
    return (name) => fits(name) !== null;
  } catch {
    return () => false;
  }
}

/** Parts between two rows, both included. */
export function keysBetween(rows: readonly PartRow[], from: string, to: string): string[] {
  const places = [from, to]
    .map((key) => rows.findIndex(({ part }) => part.key === key))
    .sort((a, b) => a - b);
  return rows.slice(Math.max(0, places[0]), places[1] + 1).map(({ part }) => part.key);
}

/** How bad what was found of each part is; notes are no more than empty marks. */
export function marksOf(findings: readonly Finding[]): Map<string, { mark: MarkKind; texts: string[] }> {
  const marks = new Map<string, { mark: MarkKind; texts: string[] }>();
  const order: MarkKind[] = ['empty', 'doubtful', 'broken'];
  for (const { step, severity, target, message } of findings) {
    if (step !== 'parts' || target.part === undefined) continue;
    const mark = markOfSeverity(severity);
    const known = marks.get(target.part);
    if (!known) marks.set(target.part, { mark, texts: [message] });
    else {
      known.texts.push(message);
      if (order.indexOf(mark) > order.indexOf(known.mark)) known.mark = mark;
    }
  }
  return marks;
}

/**
 * Names of the selected parts as a pattern and what becomes of it: `$1` and so on stand for what the stars
 * matched.
 */
export function renamed(
  parts: readonly Part[],
  pattern: string,
  to: string,
): { part: string; name: string }[] {
  const fits = createMatcher(pattern);
  return parts.flatMap(({ key, name }) => {
    const groups = fits(name);
    if (!groups) return [];
    const next = to.replaceAll(/\$(\d)/g, (_, digit: string) => groups[Number(digit) - 1] ?? '').trim();
    return next === '' || next === name ? [] : [{ part: key, name: next }];
  });
}
