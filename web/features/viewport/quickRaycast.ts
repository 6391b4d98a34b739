import { type BufferGeometry, type Intersection, Mesh, type Raycaster } from 'three';
import { acceleratedRaycast, MeshBVH } from 'three-mesh-bvh';

/** Below so many triangles looking at each is as quick. */
const WORTH = 10_000;

interface Treed extends BufferGeometry {
  boundsTree?: MeshBVH;
}

/**
 * Lets rays find faces of large meshes by a tree of boxes, which is made when a ray first meets the mesh.
 * Faces keep their order.
 */
export function quickenRaycasts(mesh: Mesh): void {
  mesh.raycast = function (this: Mesh, ray: Raycaster, hits: Intersection[]) {
    const geometry = this.geometry as Treed;
    const corners = geometry.index?.count ?? geometry.attributes.position?.count ?? 0;
    if (corners / 3 < WORTH) return Mesh.prototype.raycast.call(this, ray, hits);
    if (!meetsBox(this, ray)) return;
    geometry.boundsTree ??= new MeshBVH(geometry, { indirect: true });
    acceleratedRaycast.call(this, ray, hits);
  };
}

/** So that no tree is made of what is nowhere near the ray. */
function meetsBox({ geometry, matrixWorld }: Mesh, { ray }: Raycaster): boolean {
  if (!geometry.boundingBox) geometry.computeBoundingBox();
  return (
    geometry.boundingBox !== null && ray.intersectsBox(geometry.boundingBox.clone().applyMatrix4(matrixWorld))
  );
}
