import { percent } from '../../maps/judgePixels.ts';
import type { Material } from '../../scene/material.ts';
import { alphaWithin } from '../../sets/alphaWithin.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import type { MappedSlot } from '../slots/mappedSlot.ts';
import { EDGE, sharesOf } from './alphaUse.ts';
import { glassWord, materialFinding } from './materialFinding.ts';

/** So few clear pixels are a border, and no shape. */
const SHAPE = 0.01;

/**
 * Leaves at a low resolution are all edge, and cut out for all that: most is there, much is not, little is
 * between.
 */
function isShape({ full, clear, between }: { full: number; clear: number; between: number }): boolean {
  return between <= 0.2 && clear >= 0.05 && full >= 0.3;
}

/** Opaque, or cut out and blended by an opacity that is 1 all over, such as that of an image without alpha. */
function isSolid({ alphaMode, channels }: Material, slot: MappedSlot | undefined): boolean {
  const { map, value = 1, source } = channels.opacity ?? {};
  if (!map) return alphaMode === 'opaque' || value === 1;
  return map.component === 'a' && slot !== undefined && source?.from !== 'hand' && sharesOf(slot)?.full === 1;
}

/** A base colour whose alpha varies, on a material that reads no opacity: panes and nets come out solid. */
export const alphaIgnored: Check = ({ slots, source }) => {
  const opacities = new Map(
    slots.filter(({ channel }) => channel === 'opacity').map((slot) => [slot.material, slot]),
  );
  return slots.flatMap(({ material, channel, file, facts, named, map, content }): Finding[] => {
    const alpha = facts?.alpha;
    if (channel !== 'baseColor' || !file || !alpha || named?.packed) return [];
    if (!isSolid(material, opacities.get(material)) || alpha.full > 1 - SHAPE) return [];
    // What is clear outside of the islands is background.
    const within = alphaWithin(map.transform ? undefined : source.uvLayouts?.[material.key], facts);
    if (within === 0) return [];
    const mask = alpha.between <= EDGE || isShape(alpha);
    const opaque = material.alphaMode === 'opaque';
    const stated = opaque && source.format === 'gltf' && content.source.from === 'file';
    const pane = !mask && glassWord(material) !== null;
    const why = `alpha is 1 on ${percent(alpha.full)} of the pixels, 0 on ${percent(alpha.clear)}, between on ${percent(alpha.between)}`;
    return [
      materialFinding(material, 'opacity', {
        code: 'alpha.ignored',
        // glTF states of every material whether its alpha counts.
        severity: stated ? 'note' : 'warning',
        title: 'Alpha that nothing reads',
        message: `${material.key} ${opaque ? 'is opaque' : 'reads no opacity'}, but ${file.path} has an alpha that varies.`,
        evidence: [why, `it is not 1 on ${percent(within)} of what faces use`, judgementOf(mask, pane)],
        mend: {
          kind: 'assignSlots',
          assignments: [
            {
              material: material.key,
              channel: 'opacity',
              image: file.path,
              component: 'a',
              invert: false,
              space: 'data',
              normalY: 'Y+',
            },
          ],
          origin: { from: 'evidence', detail: why },
        },
        safe: (mask || pane) && !stated,
        mendLabel: 'Read alpha as opacity',
      }),
    ];
  });
};

function judgementOf(mask: boolean, pane: boolean): string {
  if (mask) return 'two values: a mask';
  return pane
    ? 'ramps, and the name speaks of glass: it blends'
    : 'ramps: it blends, or holds something else';
}
