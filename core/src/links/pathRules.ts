import { type FileIndex, foldName } from './fileIndex.ts';
import { parseWrittenPath } from './writtenPath.ts';

/** "What was written under `from` lies under `to`". Both are folders with forward slashes, '' for the top. */
export interface PathRule {
  from: string;
  to: string;
}

/** An image that a path rule found a file for. */
export interface RuleMatch {
  /** Key of the image. */
  image: string;
  path: string;
}

/**
 * The rule that one confirmed link teaches: what differs before the common end of both paths. Null where not
 * even the file names agree; a file of another type, `hull.png` for `hull.tif`, teaches where its folder lies.
 */
export function learnRule(written: string, path: string): PathRule | null {
  const { parts: theirs, stem } = parseWrittenPath(written);
  const ours = path.split('/');
  if (theirs.length > 0 && foldName(stem) === foldName(parseWrittenPath(path).stem))
    theirs[theirs.length - 1] = ours[ours.length - 1];
  let shared = 0;
  while (
    shared < theirs.length &&
    shared < ours.length &&
    foldName(theirs[theirs.length - 1 - shared]) === foldName(ours[ours.length - 1 - shared])
  )
    shared += 1;
  if (shared === 0) return null;
  return {
    from: theirs.slice(0, theirs.length - shared).join('/'),
    to: ours.slice(0, ours.length - shared).join('/'),
  };
}

/**
 * Missing images that the rule settles: what remains of their path after `from` names a file below `to`, case
 * aside.
 */
export function applyRule(
  rule: PathRule,
  missing: readonly { key: string; written: string }[],
  index: FileIndex,
): RuleMatch[] {
  const from = foldName(rule.from);
  return missing.flatMap(({ key, written }) => {
    const parts = parseWrittenPath(written).parts;
    const full = foldName(parts.join('/'));
    if (from !== '' && !full.startsWith(`${from}/`)) return [];
    const rest = parts.slice(from === '' ? 0 : rule.from.split('/').length).join('/');
    const required = rule.to === '' ? rest : `${rule.to}/${rest}`;
    const path = index.paths.has(required) ? required : index.byFoldedPath().get(foldName(required));
    return path ? [{ image: key, path }] : [];
  });
}

/** The rule in words. */
export function ruleInWords({ from, to }: PathRule): string {
  return `${from === '' ? 'the written folders' : from} lie${from === '' ? '' : 's'} in ${to === '' ? 'the top folder' : to}`;
}
