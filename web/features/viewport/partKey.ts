import { NODE_KEY } from '@kinkajou/core/preview/nodeKey';
import type { Object3D } from 'three';

/** The key of the part that an object of the preview belongs to. */
export function partKeyOf(object: Object3D): string | undefined {
  for (let place: Object3D | null = object; place; place = place.parent) {
    const key = place.userData[NODE_KEY];
    if (typeof key === 'string') return key;
  }
  return undefined;
}
