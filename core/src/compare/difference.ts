import type { LossCode } from '../scene/loss.ts';

/** What two models can differ in. */
export const DIFFERENCE_CODES = [
  'channel.differs',
  'channel.missing',
  'use.transform',
  'use.uvSet',
  'use.wrap',
  'use.filter',
  'alpha.mode',
  'alpha.cutoff',
  'sides',
  'colours',
  'sheet.contradicts',
  'part.missing',
  'part.added',
  'part.moved',
  'shape.points',
  'shape.faces',
  'shape.winding',
  'shape.normals',
  'shape.tangents',
  'shape.uv',
  'shape.colours',
  'shape.materials',
  'model.unit',
  'model.axes',
  'rig.skin',
  'rig.morph',
  'rig.clip',
  'file.missing',
  'file.unreadable',
] as const;
/** One of {@link DIFFERENCE_CODES}. */
export type DifferenceCode = (typeof DIFFERENCE_CODES)[number];

/** One thing that is different, where, and by how much. */
export interface Difference {
  code: DifferenceCode;
  part: string | null;
  material: string | null;
  channel: string | null;
  /** What was found, and what still counts as the same: numbers, or words where there is no number. */
  measured: number | string | null;
  allowed: number | string | null;
  /** The loss that was told in the plan and that explains just this; null where nothing does. */
  exempt: LossCode | null;
  message: string;
}

/** A difference in no part, material or channel unless `more` says where. */
export function difference(
  code: DifferenceCode,
  message: string,
  more: Partial<Omit<Difference, 'code' | 'message'>> = {},
): Difference {
  return {
    code,
    part: null,
    material: null,
    channel: null,
    measured: null,
    allowed: null,
    exempt: null,
    ...more,
    message,
  };
}

/** Whether something differs that no loss explains. */
export function isDifferent(differences: readonly Difference[]): boolean {
  return differences.some(({ exempt }) => exempt === null);
}
