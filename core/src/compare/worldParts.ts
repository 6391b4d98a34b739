import { cleanName } from '../parcel/names.ts';
import {
  type Layer,
  layerEntry,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  type Subdivision,
} from '../scene/document.ts';
import { usedSlots } from '../scene/materialForAll.ts';
import {
  determinant3,
  geometricMatrix,
  type Matrix4,
  multiply,
  normalCofactors,
  toYUpMetres,
  transformPoint,
  worldMatrices,
} from '../scene/matrix.ts';
import { turnTangents } from '../scene/tangents.ts';
import { isShown } from '../scene/unsaidParts.ts';

/**
 * A part as anything sees it: corners at their places in Y-up metres, whatever nodes, axes and units hold
 * them.
 */
export interface WorldPart {
  /** As every format can write it, with an occurrence number where it repeats. */
  name: string;
  /** That without the number. */
  bare: string;
  /** As its own file writes it. */
  title: string;
  /** Whether the file shows it. */
  shown: boolean;
  /** What USD alone says of parts; null where the file is of another format. */
  usd: { sides: PartSides; subdivision: Subdivision } | null;
  /** Corners per face. */
  faces: Uint32Array;
  /** x, y, z per corner. */
  points: Float64Array;
  /** x, y, z per corner; null where the file has none. */
  normals: Float64Array | null;
  /** x, y, z and sign per corner. */
  tangents: Float64Array | null;
  /** u, v per corner, per set. */
  uvSets: Float64Array[];
  /** r, g, b per corner, per set. */
  colours: Float64Array[];
  /** Name of the material per face, as every format can write it; '' for none. */
  materials: string[];
  /** What the file itself calls those materials. */
  materialTitles: Map<string, string>;
}

/** Sides of a part that show: as its materials say, or `forced` to one whatever they say. */
export type PartSides = 'both' | 'one' | 'forced';

/**
 * Every part with faces. Faces of mirrored nodes are turned round, as formats without transforms hold them.
 */
export function worldParts(document: SceneDocument): WorldPart[] {
  const worlds = worldMatrices(document.nodes);
  const into = toYUpMetres(document.axes, document.metresPerUnit);
  return placedParts(document).map(({ name, bare, node: i }) => {
    const node = document.nodes[i];
    const mesh = document.meshes[node.mesh];
    const matrix = multiply(into, multiply(worlds[i], geometricMatrix(node.transform)));
    const titles = node.materials.map((index) => document.materials[index]?.name ?? '');
    const names = titles.map(plainMaterial);
    const materialTitles = new Map(names.map((plain, slot) => [plain, titles[slot]]));
    return {
      name,
      bare,
      title: node.name,
      shown: isShown(document.nodes, i),
      usd:
        document.format === 'usd' ? { sides: sidesOf(document, node), subdivision: mesh.subdivision } : null,
      ...worldMesh(mesh, matrix),
      materials: materialsOf(mesh, names),
      materialTitles,
    };
  });
}

function sidesOf(document: SceneDocument, node: SceneNode): PartSides {
  if (node.oneSided) return 'forced';
  const isDouble = (slot: number) => document.materials[node.materials[slot] ?? -1]?.doubleSided;
  return usedSlots(node, document).some(isDouble) ? 'both' : 'one';
}

/**
 * Nodes whose mesh has faces, with the names by which parts are matched: an occurrence number where they
 * repeat, which some formats write into the name as `Bolt (2)`.
 */
export function placedParts({
  nodes,
  meshes,
}: SceneDocument): { name: string; bare: string; node: number }[] {
  const taken = new Set<string>();
  return nodes.flatMap((node, i) => {
    if (!(meshes[node.mesh]?.faceCounts.length > 0)) return [];
    const [, base = node.name, written] = NUMBERED.exec(node.name) ?? [];
    const plain = plainName(base);
    const numbered = (count: number) => (count === 1 ? plain : `${plain} (${count})`);
    let count = Number(written ?? 1);
    while (taken.has(numbered(count))) count += 1;
    taken.add(numbered(count));
    return [{ name: numbered(count), bare: plain, node: i }];
  });
}

const NUMBERED = /^(.+) \((\d{1,6})\)$/;

/** Letters, digits and `_`; USD puts the mesh of a part that holds others beside them, as `hull_mesh`. */
export function plainName(name: string): string {
  return cleanName(name)
    .toLowerCase()
    .replaceAll('-', '_')
    .replace(/_mesh(_\d+)?$/, '');
}

/** A plain name without the number that makes it single. */
export function withoutNumber(name: string): string {
  return name.replace(/(_\d{1,6})+$/, '');
}

function plainMaterial(name: string): string {
  return name === '' ? '' : plainName(name);
}

function materialsOf({ faceMaterial, faceCounts }: PolygonMesh, names: readonly string[]): string[] {
  return Array.from(faceCounts, (_, face) => names[faceMaterial ? faceMaterial[face] : 0] ?? '');
}

function worldMesh(
  mesh: PolygonMesh,
  matrix: Matrix4,
): Pick<WorldPart, 'faces' | 'points' | 'normals' | 'tangents' | 'uvSets' | 'colours'> {
  const order = cornerOrder(mesh, determinant3(matrix) < 0);
  const cornerFaces = facesOfCorners(mesh);
  const spread = (layer: Layer, size: number) => {
    const out = new Float64Array(order.length * size);
    for (let i = 0; i < order.length; i += 1) {
      const corner = order[i];
      const entry = layerEntry(layer, corner, mesh.faceCorners[corner], cornerFaces[corner]) * layer.size;
      // Colours without an alpha are solid.
      for (let k = 0; k < size; k += 1) out[i * size + k] = k < layer.size ? layer.values[entry + k] : 1;
    }
    return out;
  };
  return {
    faces: mesh.faceCounts,
    points: placedCorners(mesh, order, matrix),
    normals: mesh.normals && turned(spread(mesh.normals, 3), matrix),
    tangents: mesh.tangents && turnTangents(spread(mesh.tangents, 4), matrix),
    uvSets: mesh.uvSets.map((layer) => spread(layer, 2)),
    colours: mesh.colours.map((layer) => spread(layer, 4)),
  };
}

function placedCorners(
  { points, faceCorners }: PolygonMesh,
  order: Uint32Array,
  matrix: Matrix4,
): Float64Array {
  const placed = new Float64Array(points.length);
  for (let i = 0; i + 2 < points.length; i += 3)
    placed.set(transformPoint(matrix, points[i], points[i + 1], points[i + 2]), i);
  const out = new Float64Array(order.length * 3);
  for (let i = 0; i < order.length; i += 1) {
    const index = faceCorners[order[i]] * 3;
    out[i * 3] = placed[index];
    out[i * 3 + 1] = placed[index + 1];
    out[i * 3 + 2] = placed[index + 2];
  }
  return out;
}

/** Corners face by face, each face the other way round where the part is mirrored. */
function cornerOrder({ faceCounts, faceCorners }: PolygonMesh, mirrored: boolean): Uint32Array {
  const order = Uint32Array.from({ length: faceCorners.length }, (_, i) => i);
  if (!mirrored) return order;
  let start = 0;
  for (const count of faceCounts) {
    order.subarray(start, start + count).reverse();
    start += count;
  }
  return order;
}

function facesOfCorners({ faceCounts, faceCorners }: PolygonMesh): Uint32Array {
  const out = new Uint32Array(faceCorners.length);
  let start = 0;
  faceCounts.forEach((count, face) => {
    out.fill(face, start, start + count);
    start += count;
  });
  return out;
}

/** Normals follow the inverse transpose, and have length 1 again. */
function turned(normals: Float64Array, matrix: Matrix4): Float64Array {
  const c = normalCofactors(matrix);
  const sign = determinant3(matrix) < 0 ? -1 : 1;
  for (let index = 0; index < normals.length; index += 3) {
    const [x, y, z] = [normals[index], normals[index + 1], normals[index + 2]];
    const a = c[0] * x + c[3] * y + c[6] * z;
    const b = c[1] * x + c[4] * y + c[7] * z;
    const d = c[2] * x + c[5] * y + c[8] * z;
    const scale = sign / (Math.sqrt(a * a + b * b + d * d) || 1);
    normals[index] = a * scale;
    normals[index + 1] = b * scale;
    normals[index + 2] = d * scale;
  }
  return normals;
}
