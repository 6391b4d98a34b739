import type { Part } from '../../asset/parts.ts';
import type { ShapeFacts } from '../../shape/shapeFacts.ts';
import type { Finding, FindingText } from '../finding.ts';
import type { FindingContext } from '../findingContext.ts';

/** A finding of the step Parts about one part. */
export function partFinding({ key, name }: Part, text: FindingText): Finding {
  return { ...text, step: 'parts', key: `${text.code}:${key}`, subject: name || key, target: { part: key } };
}

/** Parts that show the same mesh, which is measured once. */
export interface ShownShape {
  part: Part;
  /** Others that show the same. */
  others: Part[];
  facts: ShapeFacts;
}

/** Every mesh that is shown by a part that is not dropped. */
export function shownShapes({ parts }: Pick<FindingContext, 'parts'>): ShownShape[] {
  const shapes = new Map<ShapeFacts, ShownShape>();
  for (const part of parts()) {
    if (part.dropped || !part.facts) continue;
    const shape = shapes.get(part.facts);
    if (shape) shape.others.push(part);
    else shapes.set(part.facts, { part, others: [], facts: part.facts });
  }
  return [...shapes.values()];
}

/**
 * The same without meshes whose coordinates had to be replaced: what is amiss with their faces follows from
 * that.
 */
export function soundShapes(context: Pick<FindingContext, 'parts' | 'source'>): ShownShape[] {
  const replaced = new Set(
    context.source.remarks.flatMap(({ code, subject }) => (code === 'shape.notFinite' ? [subject] : [])),
  );
  return shownShapes(context).filter(
    ({ part, others }) => ![part, ...others].some(({ name }) => replaced.has(name)),
  );
}

/** Keys of all parts that show a mesh. */
export function keysOf({ part, others }: ShownShape): string[] {
  return [part, ...others].map(({ key }) => key);
}

/** `, and 3 other parts with it` where others show the same mesh. */
export function withOthers({ others }: ShownShape): string {
  return others.length === 0
    ? ''
    : `, and ${others.length} other ${others.length === 1 ? 'part' : 'parts'} with the same mesh`;
}

/** A number with its noun, such as `1 face` or `2,400 faces`. */
export function counted(count: number, singular: string, many = `${singular}s`): string {
  return `${count.toLocaleString('en')} ${count === 1 ? singular : many}`;
}

/** Findings that are listed one by one; the rest is told by the last of them. */
const MOST = 60;

/**
 * As they are, or the first of them; the last one listed of those that are mended in the same way stands for
 * all the others, tells how many they are and mends them with it.
 */
export function capped(findings: Finding[]): Finding[] {
  if (findings.length <= MOST) return findings;
  const listed = findings.slice(0, MOST);
  const lastOf = new Map(listed.map((finding, i) => [wayOf(finding), i]));
  const others = new Map<number, Finding[]>();
  for (const finding of findings.slice(MOST)) {
    const index = lastOf.get(wayOf(finding)) ?? MOST - 1;
    others.set(index, [...(others.get(index) ?? []), finding]);
  }
  return listed.map((finding, i) => standingFor(finding, others.get(i) ?? []));
}

/** How a finding is mended, whichever part it is about. */
function wayOf({ mend, safe }: Finding): string {
  if (mend?.kind !== 'editParts' || !('parts' in mend.change)) return '';
  return JSON.stringify([{ ...mend.change, parts: [] }, safe]);
}

function standingFor(finding: Finding, others: readonly Finding[]): Finding {
  if (others.length === 0) return finding;
  const { mend } = finding;
  const way = wayOf(finding);
  const alike = others.flatMap((other) =>
    way !== '' && wayOf(other) === way && other.mend?.kind === 'editParts' && 'parts' in other.mend.change
      ? other.mend.change.parts
      : [],
  );
  const evidence = [
    ...finding.evidence,
    `${counted(others.length, 'more part')} likewise`,
    ...others.slice(0, 20).map(({ subject }) => subject),
  ];
  if (mend?.kind !== 'editParts' || !('parts' in mend.change)) return { ...finding, evidence };
  const parts = [...mend.change.parts, ...alike];
  const mendLabel = alike.length > 0 ? `${finding.mendLabel} (${parts.length})` : finding.mendLabel;
  return { ...finding, evidence, mendLabel, mend: { ...mend, change: { ...mend.change, parts } } };
}

/** The fields of a finding that only a person can mend. */
export const NO_MEND = { mend: null, safe: false, mendLabel: '' } as const;
