'use client';

import type { AssetState, ParcelImage } from '@kinkajou/core/asset/asset';
import { CHANNELS } from '@kinkajou/core/scene/material';
import { type BufferGeometry, Mesh, type Object3D, Vector3 } from 'three';
import { create } from 'zustand';
import { imageOf } from './materials.ts';

/** Texels per metre that the view takes for the middle of the scale. */
export const useDensity = create<{ middle: number }>()(() => ({ middle: 0 }));

/**
 * The asset's texels per metre, over its whole surface: the root of all texels over all square metres, by the
 * first map of each material.
 */
export function middleDensity(
  model: Object3D,
  state: AssetState,
  images: ReadonlyMap<string, ParcelImage>,
  uvSet: number,
): number {
  let [texels, area] = [0, 0];
  const sizes = new Map(
    state.materials.map((material) => {
      const maps = CHANNELS.flatMap((channel) => material.channels[channel]?.map ?? []);
      const info = maps.map((map) => imageOf(map, { state, images })?.info).find(Boolean);
      return [material.key, info ? info.width * info.height : 0];
    }),
  );
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
  model.updateMatrixWorld(true);
  model.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    const size = sizes.get(object.userData.shownKey ?? object.userData.materialKey) ?? 0;
    const geometry = (object.userData.geometry ?? object.geometry) as BufferGeometry;
    const uv = geometry.attributes[uvSet === 0 ? 'uv' : `uv${uvSet}`];
    const { position } = geometry.attributes;
    if (size === 0 || !uv || !position) return;
    const { index } = geometry;
    const entryAt = (i: number) => (index ? index.getX(i) : i);
    const count = index ? index.count : position.count;
    for (let i = 0; i + 2 < count; i += 3) {
      const [p, q, r] = [entryAt(i), entryAt(i + 1), entryAt(i + 2)];
      a.fromBufferAttribute(position, p).applyMatrix4(object.matrixWorld);
      b.fromBufferAttribute(position, q).applyMatrix4(object.matrixWorld).sub(a);
      c.fromBufferAttribute(position, r).applyMatrix4(object.matrixWorld).sub(a);
      area += b.cross(c).length() / 2;
      const [ux, uy, vx, vy] = [
        uv.getX(q) - uv.getX(p),
        uv.getY(q) - uv.getY(p),
        uv.getX(r) - uv.getX(p),
        uv.getY(r) - uv.getY(p),
      ];
      texels += (Math.abs(ux * vy - uy * vx) / 2) * size;
    }
  });
  return area > 0 && texels > 0 ? Math.sqrt(texels / area) : 1;
}
