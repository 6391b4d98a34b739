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

/** As they are, or the worst of them and how many more there are. */
export function capped(findings: Finding[]): Finding[] {
  if (findings.length <= MOST) return findings;
  const more = findings.slice(MOST);
  const last = findings[MOST - 1];
  const evidence = [
    ...last.evidence,
    `${more.length} more parts likewise`,
    ...more.slice(0, 20).map(({ subject }) => subject),
  ];
  return [...findings.slice(0, MOST - 1), { ...last, evidence }];
}

/** The fields of a finding that only a person can mend. */
export const NO_MEND = { mend: null, safe: false, mendLabel: '' } as const;
