import { expect } from 'vitest';
import { layerEntry, type PolygonMesh, type SceneDocument } from '../scene/document.ts';
import {
  determinant3,
  geometricMatrix,
  multiply,
  toYUpMetres,
  transformPoint,
  worldMatrices,
} from '../scene/matrix.ts';
import { turnFaces } from '../scene/reorient.ts';
import { triangulate } from '../scene/triangulate.ts';

/**
 * One face as anything sees it: world corners in Y-up metres, the UVs of each set per corner, and its
 * material.
 */
export interface SeenFace {
  corners: number[][];
  uvs: number[][][];
  material: string;
}

export interface SeenPart {
  name: string;
  faces: SeenFace[];
}

export interface SeeOptions {
  /** Cut into triangles, slot by slot, as glTF holds them. */
  triangles?: boolean;
  /** Faces of mirrored nodes are turned round, as formats without transforms hold them. */
  turnMirrored?: boolean;
  uvSets?: number;
}

/** A document's parts in order, told by what they look like and not by how they are held. */
export function seeParts(
  document: SceneDocument,
  { triangles = false, turnMirrored = false, uvSets = 9 }: SeeOptions = {},
): SeenPart[] {
  const worlds = worldMatrices(document.nodes);
  const into = toYUpMetres(document.axes, document.metresPerUnit);
  return document.nodes.flatMap((node, i) => {
    if (node.mesh < 0) return [];
    const own = multiply(worlds[i], geometricMatrix(node.transform));
    const matrix = multiply(into, own);
    const turned = turnMirrored && determinant3(own) < 0;
    const mesh = turned && !triangles ? turnFaces(document.meshes[node.mesh]) : document.meshes[node.mesh];
    const see = (face: number, corners: number[]): SeenFace => ({
      corners: corners.map((corner) => {
        const index = mesh.faceCorners[corner] * 3;
        return transformPoint(matrix, mesh.points[index], mesh.points[index + 1], mesh.points[index + 2]);
      }),
      uvs: mesh.uvSets.slice(0, uvSets).map((layer) =>
        corners.map((corner) => {
          const entry = layerEntry(layer, corner, mesh.faceCorners[corner], face);
          return [layer.values[entry * 2], layer.values[entry * 2 + 1]];
        }),
      ),
      material:
        document.materials[node.materials[mesh.faceMaterial ? mesh.faceMaterial[face] : 0] ?? -1]?.name ?? '',
    });
    return [{ name: node.name, faces: triangles ? seeTriangles(mesh, see, turned) : seePolygons(mesh, see) }];
  });
}

function seePolygons(mesh: PolygonMesh, see: (face: number, corners: number[]) => SeenFace): SeenFace[] {
  let start = 0;
  return Array.from(mesh.faceCounts, (count, face) => {
    const seen = see(
      face,
      Array.from({ length: count }, (_, i) => start + i),
    );
    start += count;
    return seen;
  });
}

function seeTriangles(
  mesh: PolygonMesh,
  see: (face: number, corners: number[]) => SeenFace,
  turned: boolean,
): SeenFace[] {
  const { corners, faces } = triangulate(mesh);
  const order = [...faces.keys()].sort(
    (a, b) => (mesh.faceMaterial?.[faces[a]] ?? 0) - (mesh.faceMaterial?.[faces[b]] ?? 0),
  );
  return order.map((t) => {
    const [a, b, c] = corners.subarray(t * 3, t * 3 + 3);
    return see(faces[t], turned ? [a, c, b] : [a, b, c]);
  });
}

export interface CompareOptions {
  /** Share of the scene's size that points may be off. */
  tolerance?: number;
  names?: boolean;
  materials?: boolean;
}

/** Expects two lists of parts to look the same. */
export function expectSameParts(
  found: SeenPart[],
  expected: SeenPart[],
  { tolerance = 1e-5, names = true, materials = true }: CompareOptions = {},
): void {
  expect(found.length).toBe(expected.length);
  const size = Math.max(
    1e-9,
    ...expected.flatMap((part) => part.faces.flatMap((face) => face.corners.flat().map(Math.abs))),
  );
  found.forEach((part, p) => {
    if (names) expect(part.name).toBe(expected[p].name);
    expect(part.faces.map((face) => face.corners.length)).toEqual(
      expected[p].faces.map((face) => face.corners.length),
    );
    if (materials)
      expect(part.faces.map((face) => face.material)).toEqual(expected[p].faces.map((face) => face.material));
    part.faces.forEach((face, f) => {
      const other = expected[p].faces[f];
      face.corners.forEach((corner, c) => {
        for (let k = 0; k < 3; k += 1) {
          const off = Math.abs(corner[k] - other.corners[c][k]);
          if (!(off <= tolerance * size))
            throw new Error(
              `part ${p} face ${f} corner ${c} axis ${k}: ${corner[k]} is not ${other.corners[c][k]} (size ${size})`,
            );
        }
      });
      expect(face.uvs.length).toBe(other.uvs.length);
      face.uvs.forEach((set, s) => {
        set.forEach((uv, c) => {
          for (let k = 0; k < 2; k += 1)
            if (!(Math.abs(uv[k] - other.uvs[s][c][k]) <= 1e-5))
              throw new Error(`part ${p} face ${f} uv set ${s} corner ${c}: ${uv} is not ${other.uvs[s][c]}`);
        });
      });
    });
  });
}
