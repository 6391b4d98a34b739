import { type ConvexBody, convexBodies, hullOfPoints, meshOfBody, smallestBox } from './convex.ts';
import { createMesh, createNode, type PolygonMesh, type SceneDocument } from './document.ts';
import { shownPoints } from './measure.ts';
import { COLLISION_USUAL, type Collision, type CollisionShape, collisionIn } from './partChange.ts';
import { thinned } from './thinned.ts';

/** Whether any part gets a shape: by what the destination wants, or by what was chosen for the part. */
export function wantsCollision({ nodes }: SceneDocument, shape: CollisionShape): boolean {
  return nodes.some((node) => node.mesh >= 0 && (node.collision?.shape ?? shape) !== 'none');
}

/**
 * Adds shapes for collision under every part: its box, the smallest box however it lies, its convex hull,
 * several of them or the part's own faces, all or a share; what was chosen for a part comes before what all
 * get. As children they follow whatever scale the part is given later; several are numbered. Parts that share
 * a mesh share the shapes. They have no material.
 */
export async function addCollision(
  document: SceneDocument,
  common: Collision,
  nameOf: (part: string) => string,
): Promise<SceneDocument> {
  const meshes = [...document.meshes];
  const made = new Map<string, number[]>();
  const nodes = [...document.nodes];
  for (const [i, node] of document.nodes.entries()) {
    const wantedCollision = node.collision ?? common;
    if (node.mesh < 0 || wantedCollision.shape === 'none') continue;
    const name = nameOf(node.name);
    const key = `${node.mesh} ${JSON.stringify(collisionIn(wantedCollision))}`;
    const places =
      made.get(key) ??
      (await collisionOf(document.meshes[node.mesh], wantedCollision, name)).map(
        (solid) => meshes.push(solid) - 1,
      );
    made.set(key, places);
    const { geometricTranslation, geometricRotation, geometricScale } = node.transform;
    places.forEach((place, number) => {
      const added = createNode(
        places.length > 1 ? `${name}_${String(number + 1).padStart(2, '0')}` : name,
        'mesh',
        i,
        { mesh: place },
      );
      Object.assign(added.transform, { geometricTranslation, geometricRotation, geometricScale });
      nodes.push(added);
    });
  }
  return { ...document, nodes, meshes };
}

/**
 * What stands in for a mesh, in its own space; nothing where there is nothing to stand in for. What is flat
 * has no hull and gets its box.
 */
export async function collisionOf(
  mesh: PolygonMesh,
  { shape, hulls, error, keep = COLLISION_USUAL.keep }: Collision,
  name: string,
): Promise<PolygonMesh[]> {
  const { points, faceCounts, faceCorners } = mesh;
  const shown = shownPoints(mesh);
  if (faceCounts.length === 0 || shape === 'none') return [];
  if (shape === 'mesh')
    return [createMesh(name, keep === 1 ? { points, faceCounts, faceCorners } : await thinned(mesh, keep))];
  if (shape === 'orientedBox') return [boxOf(smallestBox(shown), name)];
  let bodies: ConvexBody[] = [];
  if (shape === 'hulls') bodies = convexBodies(mesh, { hulls, error });
  if (shape === 'hull') bodies = [hullOfPoints(shown)].filter((hull) => hull !== null);
  return bodies.length > 0
    ? bodies.map((body) => meshOfBody(body, name))
    : [boxOf(boundingCorners(shown), name)];
}

/** Corner i lies at the far side of axis k where bit k of i is set. */
const BOX_FACES = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
];

function boxOf(corners: Float64Array, name: string): PolygonMesh {
  return createMesh(name, {
    points: corners,
    faceCounts: new Uint32Array(6).fill(4),
    faceCorners: Uint32Array.from(BOX_FACES.flat()),
  });
}

function boundingCorners(points: ArrayLike<number>): Float64Array {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 1) {
    min[i % 3] = Math.min(min[i % 3], points[i]);
    max[i % 3] = Math.max(max[i % 3], points[i]);
  }
  return Float64Array.from(
    Array.from({ length: 8 }, (_, i) => [0, 1, 2].map((axis) => ((i >> axis) & 1 ? max : min)[axis])).flat(),
  );
}
