import type { MapUse } from '../../scene/material.ts';
import type { FindingContext } from '../findingContext.ts';
import type { MappedSlot } from '../slots/mappedSlot.ts';

/**
 * What the opacity of a slot's image comes to: shares of the pixels that are all there, clear, and in
 * between.
 */
export interface AlphaShares {
  full: number;
  clear: number;
  between: number;
}

/** Values this near to 0 or 1 are meant to be it. */
const SLACK = 2.5 / 255;
/** So few pixels in between are the smoothed edge of a cut-out. */
export const EDGE = 0.06;

/** Shares of the opacity that a slot reads; null where the pixels do not tell. */
export function sharesOf({ channel, map, facts, content }: MappedSlot): AlphaShares | null {
  if (channel !== 'opacity' || !facts || content.value !== 1) return null;
  // An image without alpha is all there.
  if (map.component === 'a' && facts.components % 2 === 1)
    return turned({ full: 1, clear: 0, between: 0 }, map.invert);
  if (map.component === 'a') return facts.alpha && turned(facts.alpha, map.invert);
  const part = partRead(map);
  const [low, high, ends] = [
    facts.min[part] ?? facts.min[0],
    facts.max[part] ?? facts.max[0],
    facts.ends[part] ?? facts.ends[0],
  ];
  if (high - low < SLACK)
    return turned(
      {
        full: high > 1 - SLACK ? 1 : 0,
        clear: high < SLACK ? 1 : 0,
        between: high > 1 - SLACK || high < SLACK ? 0 : 1,
      },
      map.invert,
    );
  if (low > SLACK || high < 1 - SLACK) return { full: 0, clear: 0, between: 1 };
  return turned({ full: ends / 2, clear: ends / 2, between: 1 - ends }, map.invert);
}

function partRead(map: MapUse) {
  if (map.component === 'g') return 1;
  return map.component === 'b' ? 2 : 0;
}

function turned(shares: AlphaShares, invert: boolean): AlphaShares {
  return invert ? { full: shares.clear, clear: shares.full, between: shares.between } : shares;
}

/** Slots that feed the opacity of materials that are not opaque. */
export function openOpacities({ slots }: FindingContext): MappedSlot[] {
  return slots.filter(
    ({ channel, material, file }) => channel === 'opacity' && file && material.alphaMode !== 'opaque',
  );
}

/** Base colours whose own alpha cuts their material out. */
export function cutBase({ slots }: FindingContext): MappedSlot[] {
  return slots.filter(({ channel, material, map }) => {
    const opacity = material.channels.opacity?.map;
    return (
      channel === 'baseColor' &&
      material.alphaMode !== 'opaque' &&
      opacity?.component === 'a' &&
      opacity.image === map.image
    );
  });
}
