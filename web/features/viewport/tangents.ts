import { type BufferGeometry, Mesh, type Object3D } from 'three';

/**
 * A model's own tangents go up in the image with their signs; those that three derives where there are none go
 * the way in which v grows, which is down. One material serves both once the signs are turned.
 */
export function turnTangentSigns(model: Object3D): void {
  const turned = new Set<BufferGeometry>();
  model.traverse((object) => {
    if (!(object instanceof Mesh) || turned.has(object.geometry)) return;
    turned.add(object.geometry);
    const tangents = object.geometry.getAttribute('tangent');
    for (let i = 0; i < (tangents?.count ?? 0); i += 1) tangents.setW(i, -tangents.getW(i));
  });
}
