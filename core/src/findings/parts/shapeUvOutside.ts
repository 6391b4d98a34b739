import type { MapUse } from '../../scene/material.ts';
import { transformUv } from '../../scene/uvTransform.ts';
import { type SlotUvs, UV_SLACK } from '../../shape/uvFacts.ts';
import type { Check } from '../findingContext.ts';
import { byMaterial, mappedFaces } from './mappedParts.ts';
import { NO_MEND } from './partFinding.ts';

/** UVs beyond an image that neither repeats nor comes in tiles: its border is drawn out. */
export const shapeUvOutside: Check = (context) => {
  const tiled = new Set(
    context.state.images.filter(({ tiles = [] }) => tiles.length > 1).map(({ key }) => key),
  );
  return byMaterial(
    mappedFaces(context).filter(({ material, uvs }) =>
      Object.values(material.channels).some(
        (channel) => channel?.map && !tiled.has(channel.map.image) && reachesOut(uvs, channel.map),
      ),
    ),
    (faces, where) => ({
      code: 'shape.uvOutside',
      severity: 'warning',
      title: 'UVs beyond the image',
      message: `${where}: UVs reach beyond the image of ${faces[0].material.key}, which neither repeats nor has tiles there; its border is drawn out.`,
      evidence: faces
        .slice(0, 1)
        .flatMap(({ uvs: { range } }) =>
          range
            ? [
                `u ${shown(range.min[0])} to ${shown(range.max[0])}, v ${shown(range.min[1])} to ${shown(range.max[1])}`,
              ]
            : [],
        ),
      ...NO_MEND,
    }),
  );
};

function reachesOut({ range }: SlotUvs, { wrap, transform }: MapUse): boolean {
  if (!range || !wrap.includes('clamp')) return false;
  const corners = [range.min, [range.max[0], range.min[1]], range.max, [range.min[0], range.max[1]]].map(
    ([u, v]) => (transform ? transformUv(transform, u, v) : [u, v]),
  );
  return wrap.some(
    (mode, axis) =>
      mode === 'clamp' && corners.some((corner) => corner[axis] < -UV_SLACK || corner[axis] > 1 + UV_SLACK),
  );
}

function shown(value: number): string {
  return String(Math.round(value * 100) / 100);
}
