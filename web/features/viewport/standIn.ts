import { asLine, type MapRange } from '@kinkajou/core/scene/mapUse';
import type { Component } from '@kinkajou/core/scene/material';

/** Red, green, blue and alpha in 0..1, as they are stored. */
export type Texel = [red: number, green: number, blue: number, alpha: number];

/** What a channel may be taken for while its image is on its way: a plain, dull surface that is wholly there. */
const WANTED: Readonly<Record<string, number>> = {
  baseColor: 0.7,
  specularColor: 0.4,
  specular: 1,
  roughness: 0.6,
  occlusion: 1,
  opacity: 1,
  bump: 0.5,
};
/** What packed images mostly hold: occlusion, roughness and metalness, and all of it seen. */
const PACKED: Texel = [1, 0.6, 0, 1];
const FLAT: Texel = [0.5, 0.5, 1, 1];

/** The texel that stands for an image until it comes, as it would be stored there. */
export function standIn(channel: string, use: MapRange & { component: Component }): Texel {
  if (channel === 'normal') return FLAT;
  const { gain, offset } = asLine(use);
  const wanted = ((WANTED[channel] ?? 0) - offset) / (gain || 1);
  const stored = Math.min(1, Math.max(0, wanted));
  if (use.component === 'rgb' || use.component === 'luminance') return [stored, stored, stored, 1];
  const texel: Texel = [...PACKED];
  texel['rgba'.indexOf(use.component)] = stored;
  return texel;
}
