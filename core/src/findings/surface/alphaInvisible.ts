import type { Edit } from '../../asset/asset.ts';
import { readStored } from '../../scene/mapUse.ts';
import type { Material } from '../../scene/material.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import { asItIs } from '../slots/slotFinding.ts';

const WHY = 'the writer took transparency for opacity';

/**
 * A material with opacity 0 all over: nearly always transparency written as opacity, or the other way round.
 * So is one whose opacity never reaches the cut-off of its mask.
 */
export const alphaInvisible: Check = (context) =>
  context.state.materials.filter(isInvisible).map((material) => {
    const { d, Tr, TransparencyFactor } = material.extras;
    const written = [
      d !== undefined && `d ${d}`,
      Tr !== undefined && `Tr ${Tr}`,
      TransparencyFactor !== undefined && `TransparencyFactor ${TransparencyFactor}`,
    ].filter(Boolean);
    const faces = (context.source.facesPerMaterial[material.key] ?? 0).toLocaleString('en');
    const value = mostOf(material) === 0 ? 'opacity 0' : `opacity below its cut-off ${material.alphaCutoff}`;
    return {
      code: 'alpha.invisible',
      step: 'surface' as const,
      severity: 'error' as const,
      key: `alpha.invisible:${material.key}`,
      title: 'Fully invisible material',
      subject: material.key,
      message: `${material.key} has ${value} on ${faces} faces. ${written.length > 0 ? `The file says ${written.join(' and ')}: m` : 'M'}ost likely ${WHY}.`,
      evidence: [...written.map((text) => `the file says ${text}`), 'nobody models what can never be seen'],
      mend: mendOf(material, context),
      safe: true,
      mendLabel: 'Make opaque',
      target: { material: material.key, channel: 'opacity' as const },
    };
  });

/** The highest opacity that the material can have anywhere; 1 where it has none. */
function mostOf({ channels: { opacity } }: Material): number {
  if (!opacity || typeof opacity.value !== 'number') return 1;
  return opacity.value * rangeOf(opacity);
}

function rangeOf({ map }: NonNullable<Material['channels']['opacity']>): number {
  return map ? Math.max(readStored(map, 0), readStored(map, 1)) : 1;
}

function isInvisible(material: Material): boolean {
  const most = mostOf(material);
  return most <= 0 || (material.alphaMode === 'mask' && most < material.alphaCutoff);
}

/** The value 1; or the image as it is, where a gain takes it away. */
function mendOf(material: Material, { slots }: FindingContext): Edit {
  const origin = { from: 'evidence' as const, detail: WHY };
  const { opacity } = material.channels;
  const slot = slots.find((other) => other.material === material && other.channel === 'opacity');
  if (opacity && slot?.file && rangeOf(opacity) < 1)
    return { kind: 'assignSlots', assignments: [asItIs(slot)], origin };
  const change = { opacity: 1, ...(opacity?.map ? {} : { alphaMode: 'opaque' as const }) };
  return { kind: 'setAlpha', materials: [material.key], change, origin };
}
