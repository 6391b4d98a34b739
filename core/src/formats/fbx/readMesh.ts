import { KinkajouError } from '../../errors.ts';
import { own } from '../../own.ts';
import { asLight } from '../../scene/colours.ts';
import {
  addRemark,
  addUncarried,
  createMesh,
  type Domain,
  type IndexArray,
  type Layer,
  type PolygonMesh,
  type Remark,
} from '../../scene/document.ts';
import { withSigns } from '../../scene/tangents.ts';
import { childOf, childrenOf, type FbxNode, integersOf, numbersOf, textAt } from './tree.ts';

/** Which corners and faces of the written polygon list were kept. */
interface Polygons {
  faceCounts: Uint32Array;
  faceCorners: Uint32Array;
  /** Written corner per kept corner, or null when all were kept. */
  cornersKept: Uint32Array | null;
  facesKept: Uint32Array | null;
}

/**
 * Reads the polygons and layers of a Geometry record (7.x) or of a Model that carries its own mesh (6.x).
 * Polygons that name missing points or have fewer than three corners are left out and remarked on.
 * Throws `limit.polygons` past the limit.
 */
export function readFbxMesh(
  node: FbxNode,
  name: string,
  remarks: Remark[],
  maxPolygons = Infinity,
): PolygonMesh {
  const points = (numbersOf(childOf(node, 'Vertices')) ?? new Float64Array(0)) as Float64Array;
  const whole = points.length - (points.length % 3);
  const indices = integersOf(childOf(node, 'PolygonVertexIndex')) ?? new Int32Array(0);
  const polygons = readPolygons(indices, whole / 3, name, remarks);
  if (polygons.faceCounts.length > maxPolygons) {
    throw new KinkajouError(
      'limit.polygons',
      `${name} has ${polygons.faceCounts.length} polygons, and the limit is ${maxPolygons}`,
    );
  }
  const layer = (element: string, values: string, index: string, size: 2 | 3 | 4) =>
    childrenOf(node, element)
      .map((record) =>
        readLayer(record, { values, index, size }, { name, points: whole / 3, polygons, remarks }),
      )
      .filter((layer) => layer !== null);
  for (const kind of UNCARRIED_LAYERS)
    if (childOf(node, kind)) addUncarried(remarks, kind.replace('LayerElement', 'mesh layers: '), name);
  const mesh = createMesh(name, {
    points: whole === points.length ? points : points.subarray(0, whole),
    faceCounts: polygons.faceCounts,
    faceCorners: polygons.faceCorners,
    faceMaterial: readFaceNumbers(childOf(node, 'LayerElementMaterial'), 'Materials', polygons),
    faceSmoothing: readFaceNumbers(childOf(node, 'LayerElementSmoothing'), 'Smoothing', polygons),
    hardEdges: readHardEdges(node, indices),
    normals: layer('LayerElementNormal', 'Normals', 'NormalsIndex', 3)[0] ?? null,
    uvSets: layer('LayerElementUV', 'UV', 'UVIndex', 2),
    colours: layer('LayerElementColor', 'Colors', 'ColorIndex', 4).map(asLight),
  });
  const [tangents] = layer('LayerElementTangent', 'Tangents', 'TangentsIndex', 3);
  const [binormals] = layer('LayerElementBinormal', 'Binormals', 'BinormalsIndex', 3);
  mesh.tangents = withSigns(mesh, tangents ?? null, binormals ?? null);
  return mesh;
}

const UNCARRIED_LAYERS = [
  'LayerElementEdgeCrease',
  'LayerElementVertexCrease',
  'LayerElementHole',
  'LayerElementUserData',
  'LayerElementVisibility',
];

/**
 * Smoothing by edge: `Edges` names the corner where each edge starts, by its place in the polygon list; the
 * edge runs to the next corner of the same polygon. Smoothing 0 is a hard edge.
 */
function readHardEdges(node: FbxNode, indices: Int32Array): Uint32Array | null {
  const record = childOf(node, 'LayerElementSmoothing');
  const edges = integersOf(childOf(node, 'Edges'));
  const flags = integersOf(childOf(record, 'Smoothing'));
  if (textAt(childOf(record, 'MappingInformationType'), 0) !== 'ByEdge' || !edges || !flags) return null;
  const starts = new Map<number, number>();
  let start = 0;
  const ends = new Set<number>();
  indices.forEach((raw, corner) => {
    if (raw >= 0) return;
    ends.add(corner);
    starts.set(corner, start);
    start = corner + 1;
  });
  const pairs: number[] = [];
  const pointAt = (corner: number) => (indices[corner] < 0 ? ~indices[corner] : indices[corner]);
  for (let e = 0; e < edges.length && e < flags.length; e += 1) {
    const corner = edges[e];
    if (flags[e] !== 0 || corner < 0 || corner >= indices.length) continue;
    pairs.push(pointAt(corner), pointAt(ends.has(corner) ? (starts.get(corner) as number) : corner + 1));
  }
  return Uint32Array.from(pairs);
}

function readPolygons(indices: Int32Array, points: number, name: string, remarks: Remark[]): Polygons {
  let faces = 0;
  for (let i = 0; i < indices.length; i += 1) if (indices[i] < 0) faces += 1;
  const open = indices.length > 0 && indices[indices.length - 1] >= 0;
  const faceCounts = new Uint32Array(faces);
  const faceCorners = new Uint32Array(indices.length);
  let sound = !open;
  let start = 0;
  let face = 0;
  for (let i = 0; i < indices.length; i += 1) {
    const raw = indices[i];
    const point = raw < 0 ? ~raw : raw;
    faceCorners[i] = point;
    if (point >= points) sound = false;
    if (raw < 0) {
      const count = i + 1 - start;
      if (count < 3) sound = false;
      faceCounts[face] = count;
      face += 1;
      start = i + 1;
    }
  }
  if (sound) return { faceCounts, faceCorners, cornersKept: null, facesKept: null };
  return keepSound({ faceCounts, faceCorners }, points, name, remarks);
}

function keepSound(
  { faceCounts: counts, faceCorners: corners }: Pick<Polygons, 'faceCounts' | 'faceCorners'>,
  points: number,
  name: string,
  remarks: Remark[],
): Polygons {
  const facesKept: number[] = [];
  const cornersKept: number[] = [];
  let first = 0;
  counts.forEach((count, face) => {
    const mine = Array.from({ length: count }, (_, i) => first + i);
    if (count >= 3 && mine.every((corner) => corners[corner] < points)) {
      facesKept.push(face);
      cornersKept.push(...mine);
    }
    first += count;
  });
  const lost = counts.length - facesKept.length + (first < corners.length ? 1 : 0);
  if (lost > 0) {
    addRemark(
      remarks,
      {
        code: 'read.indexRange',
        severity: 'error',
        subject: name,
        message: 'polygons that name missing points, or have under three corners, are left out',
      },
      lost,
    );
  }
  return {
    faceCounts: Uint32Array.from(facesKept, (face) => counts[face]),
    faceCorners: Uint32Array.from(cornersKept, (corner) => corners[corner]),
    cornersKept: Uint32Array.from(cornersKept),
    facesKept: Uint32Array.from(facesKept),
  };
}

const DOMAINS: Record<string, Domain> = {
  ByPolygonVertex: 'corner',
  ByVertex: 'point',
  ByVertice: 'point',
  ByPolygon: 'face',
};

/** What the records of a layer are called, and how many numbers an entry has. */
interface LayerShape {
  values: string;
  index: string;
  size: 2 | 3 | 4;
}

/** The mesh that layers lie on. */
interface LayerMesh {
  name: string;
  points: number;
  polygons: Polygons;
  remarks: Remark[];
}

function readLayer(
  record: FbxNode,
  { values: valuesName, index: indexName, size }: LayerShape,
  mesh: LayerMesh,
): Layer | null {
  const { polygons, points } = mesh;
  const mapping = textAt(childOf(record, 'MappingInformationType'), 0);
  const reference = textAt(childOf(record, 'ReferenceInformationType'), 0);
  const values = numbersOf(childOf(record, valuesName));
  const name = textAt(childOf(record, 'Name'), 0) || valuesName.toLowerCase();
  const entries = (values?.length ?? 0) / size;
  const drop = (why: string) => {
    addRemark(mesh.remarks, {
      code: 'read.layer',
      severity: 'warning',
      subject: `${mesh.name}, ${name}`,
      message: `a layer is left out: ${why}`,
    });
    return null;
  };
  if (!values || values.length === 0) return null;
  if (mapping === 'AllSame') {
    const [entry = 0] = (reference === 'Direct' ? null : integersOf(childOf(record, indexName))) ?? [];
    const index = new Int32Array(polygons.faceCounts.length).fill(entry);
    return resolveIndex({ name, size, domain: 'face', values, index }, entries);
  }
  const domain = own(DOMAINS, mapping);
  if (!domain) return drop(`mapping "${mapping}" is not carried`);
  let index: IndexArray | null =
    reference === 'Direct' ? null : (integersOf(childOf(record, indexName)) ?? null);
  if (!index && reference !== 'Direct' && entries < domainLength(domain, polygons, points))
    return drop('its index is missing');
  index = keepEntries(domain, index, polygons);
  const needed = domainLength(domain, polygons, points);
  if ((index?.length ?? entries) < needed) return drop('it has too few entries');
  return resolveIndex({ name, size, domain, values, index }, entries);
}

function domainLength(domain: Domain, polygons: Polygons, points: number): number {
  if (domain === 'corner') return polygons.faceCorners.length;
  return domain === 'face' ? polygons.faceCounts.length : points;
}

/** Where faces were left out, layers of corners and faces read through the kept entries. */
function keepEntries(domain: Domain, index: IndexArray | null, polygons: Polygons): IndexArray | null {
  const keptElements = keptElementsOf(domain, polygons);
  if (!keptElements) return index;
  return index ? Int32Array.from(keptElements, (entry) => index[entry] ?? -1) : keptElements;
}

function keptElementsOf(domain: Layer['domain'], polygons: Polygons) {
  if (domain === 'corner') return polygons.cornersKept;
  return domain === 'face' ? polygons.facesKept : null;
}

/** Entries of -1 or beyond the end mean "no value": they read an added zero entry. */
function resolveIndex(layer: Layer, entries: number): Layer {
  const { index } = layer;
  if (!index) return layer;
  let stray = false;
  for (let i = 0; i < index.length; i += 1) if (index[i] < 0 || index[i] >= entries) stray = true;
  if (!stray) return layer;
  const values = new Float64Array(Math.floor(entries) * layer.size + layer.size);
  values.set(layer.values.subarray(0, Math.floor(entries) * layer.size));
  const checked = Int32Array.from(index, (entry) =>
    entry < 0 || entry >= entries ? Math.floor(entries) : entry,
  );
  return { ...layer, values, index: checked };
}

/** One whole number per face (material slot, smoothing); null when every face has 0 or nothing is written. */
function readFaceNumbers(
  record: FbxNode | undefined,
  valuesName: string,
  polygons: Polygons,
): Int32Array | null {
  const values = integersOf(childOf(record, valuesName));
  const mapping = textAt(childOf(record, 'MappingInformationType'), 0);
  const faces = polygons.faceCounts.length;
  if (!values || values.length === 0) return null;
  if (mapping === 'AllSame') return values[0] === 0 ? null : new Int32Array(faces).fill(values[0]);
  if (mapping !== 'ByPolygon') return null;
  const out = new Int32Array(faces);
  let varied = false;
  for (let face = 0; face < faces; face += 1) {
    out[face] = values[polygons.facesKept ? polygons.facesKept[face] : face] ?? 0;
    if (out[face] !== 0) varied = true;
  }
  return varied ? out : null;
}
