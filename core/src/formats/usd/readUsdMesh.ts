import { own } from '../../own.ts';
import {
  addRemark,
  addUncarried,
  createMesh,
  type Domain,
  type FloatArray,
  type Layer,
  type PolygonMesh,
  type Remark,
  type Subdivision,
} from '../../scene/document.ts';
import { turnFaces } from '../../scene/reorient.ts';
import { withSigns } from '../../scene/tangents.ts';
import type { ComposedPrim, ComposedProperty } from './compose.ts';
import { shapeOfType } from './layer.ts';
import { get, numbersOf, propertyValue, textOf } from './values.ts';

const DOMAINS: Record<string, Domain | 'constant'> = {
  vertex: 'point',
  varying: 'point',
  faceVarying: 'corner',
  uniform: 'face',
  constant: 'constant',
};
const SUBDIVISIONS: Record<string, Subdivision> = {
  none: 'none',
  catmullClark: 'catmullClark',
  loop: 'loop',
  bilinear: 'bilinear',
};

/** A mesh, and the written numbers of its faces where some were left out. */
export interface ReadMesh {
  mesh: PolygonMesh;
  kept: Uint32Array | null;
}

/** Reads a Mesh prim: polygons as they are, primvars of every interpolation, indexed or not. */
export function readUsdMesh(prim: ComposedPrim, name: string, remarks: Remark[]): ReadMesh {
  const points = numbersOf(get(prim, 'points')) ?? new Float64Array(0);
  const counts = numbersOf(get(prim, 'faceVertexCounts')) ?? new Float64Array(0);
  const indices = numbersOf(get(prim, 'faceVertexIndices')) ?? new Float64Array(0);
  const holes = new Set(numbersOf(get(prim, 'holeIndices')));
  const faces = soundFaces({ counts, indices, holes }, Math.floor(points.length / 3), prim.path, remarks);
  const mesh = createMesh(name, {
    points,
    faceCounts: faces.counts,
    faceCorners: faces.corners,
    subdivision: SUBDIVISIONS[textOf(get(prim, 'subdivisionScheme')) ?? 'catmullClark'] ?? 'none',
  });
  const context = { prim, mesh, kept: faces.kept, keptCorners: faces.keptCorners, remarks };
  const normals = prim.properties.get('primvars:normals') ?? prim.properties.get('normals');
  mesh.normals = layerOf(normals, 3, 'normal', context);
  readPrimvars(context);
  mesh.tangents = readTangents(context);
  for (const [attribute, kind] of Object.entries(UNCARRIED)) {
    const value = numbersOf(get(prim, attribute));
    if (value && value.length > 0) addUncarried(remarks, kind, prim.path);
  }
  const turned = textOf(get(prim, 'orientation')) === 'leftHanded' ? turnFaces(mesh) : mesh;
  return { mesh: turned, kept: faces.kept };
}

/** Reads UV sets, colours and tangents of a prim into its mesh; normals are read before. */
export function readPrimvars(context: Context): void {
  for (const property of context.prim.properties.values()) {
    if (
      !property.name.startsWith('primvars:') ||
      property.name.endsWith(':indices') ||
      property.name === 'primvars:normals'
    )
      continue;
    readPrimvar(property, context);
  }
}

const UNCARRIED: Record<string, string> = {
  creaseIndices: 'edge creases',
  cornerIndices: 'corner sharpness',
  velocities: 'velocities',
};

interface Context {
  prim: ComposedPrim;
  mesh: PolygonMesh;
  kept: Uint32Array | null;
  keptCorners: Uint32Array | null;
  remarks: Remark[];
}

interface WrittenFaces {
  counts: ArrayLike<number>;
  indices: ArrayLike<number>;
  /** Faces that are there for their neighbours' sake, and are not seen. */
  holes: ReadonlySet<number>;
}

/** The faces that can be drawn; those that cannot are told of. */
function soundFaces(
  { counts, indices, holes }: WrittenFaces,
  points: number,
  path: string,
  remarks: Remark[],
) {
  let start = 0;
  let broken = 0;
  const outCounts: number[] = [];
  const keptFaces: number[] = [];
  const keptCorners: number[] = [];
  for (let face = 0; face < counts.length; face += 1) {
    const count = counts[face];
    let fine = count >= 3 && start + count <= indices.length;
    for (let i = 0; fine && i < count; i += 1) fine = indices[start + i] >= 0 && indices[start + i] < points;
    if (!fine) broken += 1;
    else if (!holes.has(face)) {
      outCounts.push(count);
      keptFaces.push(face);
      for (let i = 0; i < count; i += 1) keptCorners.push(start + i);
    }
    start += Math.max(0, count);
  }
  if (broken > 0) {
    addRemark(
      remarks,
      {
        code: 'read.indexRange',
        severity: 'error',
        subject: path,
        message: 'polygons that name missing points, or have under three corners, are left out',
      },
      broken,
    );
  }
  const sound = keptFaces.length === counts.length;
  return {
    counts: Uint32Array.from(outCounts),
    corners: Uint32Array.from(keptCorners, (corner) => indices[corner]),
    kept: sound ? null : Uint32Array.from(keptFaces),
    keptCorners: sound ? null : Uint32Array.from(keptCorners),
  };
}

function readPrimvar(property: ComposedProperty, context: Context): void {
  const name = property.name.slice('primvars:'.length);
  if (name.startsWith('skel:')) return;
  const { scalar, width, array } = shapeOfType(property.typeName);
  if (name === 'displayOpacity') return;
  const floats = scalar === 'float' || scalar === 'double' || scalar === 'half';
  if (floats && width === 2) {
    const layer = layerOf(property, 2, name, context);
    if (layer) context.mesh.uvSets.push(layer);
  } else if (
    floats &&
    (width === 3 || width === 4) &&
    (name === 'displayColor' || /color|colour/i.test(name) || property.typeName.startsWith('color'))
  ) {
    const layer = layerOf(property, width, name, context);
    if (layer) context.mesh.colours.push(name === 'displayColor' ? withOpacity(layer, context) : layer);
  } else if (floats && (width === 3 || width === 4) && FRAMES.test(name)) return;
  else if (array && propertyValue(property) !== undefined)
    addUncarried(context.remarks, `primvars of type ${property.typeName}`, name);
}

const FRAMES = /tangent|binormal/i;
const BINORMALS = /bitangent|binormal/i;

/** Tangents with their signs, when normals and UVs are read. */
function readTangents(context: Context): Layer | null {
  const written = [...context.prim.properties.values()].filter(
    ({ name }) => name.startsWith('primvars:') && !name.endsWith(':indices') && FRAMES.test(name),
  );
  const tangents = written.find(({ name }) => !BINORMALS.test(name));
  const binormals = written.find(({ name }) => BINORMALS.test(name));
  const width = tangents && shapeOfType(tangents.typeName).width === 4 ? 4 : 3;
  return withSigns(
    context.mesh,
    layerOf(tangents, width, 'tangents', context),
    layerOf(binormals, 3, 'binormals', context),
  );
}

/** Display colour with its opacity as a fourth component, where both are spread the same way. */
function withOpacity(colour: Layer, { prim, kept: keptFaces }: Context): Layer {
  const property = prim.properties.get('primvars:displayOpacity');
  const alpha = numbersOf(propertyValue(property));
  const entries = colour.values.length / 3;
  const sameSpread =
    property?.metadata.interpolation === prim.properties.get('primvars:displayColor')?.metadata.interpolation;
  if (!alpha || colour.size !== 3 || alpha.length !== entries || !sameSpread || keptFaces) return colour;
  const values = new Float64Array(entries * 4);
  for (let i = 0; i < entries; i += 1) {
    for (let k = 0; k < 3; k += 1) values[i * 4 + k] = colour.values[i * 3 + k];
    values[i * 4 + 3] = alpha[i];
  }
  return { ...colour, size: 4, values };
}

function layerOf(
  property: ComposedProperty | undefined,
  size: 2 | 3 | 4,
  name: string,
  context: Context,
): Layer | null {
  const values = numbersOf(propertyValue(property)) as FloatArray | undefined;
  if (!property || !values || values.length < size) return null;
  const { mesh, remarks, prim } = context;
  const entries = Math.floor(values.length / size);
  const written = numbersOf(propertyValue(prim.properties.get(`${property.name}:indices`)));
  const interpolation =
    textOf(property.metadata.interpolation) ?? (property.name === 'normals' ? 'vertex' : 'constant');
  const domain = own(DOMAINS, interpolation) ?? 'constant';
  const drop = (why: string) => {
    addRemark(remarks, {
      code: 'read.layer',
      severity: 'warning',
      subject: `${prim.path}, ${name}`,
      message: `a layer is left out: ${why}`,
    });
    return null;
  };
  if (domain === 'constant') {
    if (size === 2 && !isSpread(property)) return drop('one value for the whole mesh is no UV set');
    const first = written ? written[0] : 0;
    return {
      name,
      size,
      domain: 'face',
      values,
      index: new Uint32Array(mesh.faceCounts.length).fill(first < entries ? first : 0),
    };
  }
  const needed = entriesNeeded(domain, mesh);
  const keptElements = keptElementsOf(domain, context);
  const entryAt = (i: number) => (keptElements ? keptElements[i] : i);
  if (!written) {
    if (!keptElements)
      return entries < needed
        ? drop(`it has ${entries} values, and ${needed} are needed`)
        : { name, size, domain, values, index: null };
    return {
      name,
      size,
      domain,
      values,
      index: Uint32Array.from({ length: needed }, (_, i) => Math.min(entries - 1, entryAt(i))),
    };
  }
  const index = new Uint32Array(needed);
  for (let i = 0; i < needed; i += 1) {
    const entry = written[entryAt(i)];
    if (!(entry >= 0 && entry < entries)) return drop('its indices point at nothing');
    index[i] = entry;
  }
  return { name, size, domain, values, index };
}

/** Whether two numbers for the whole mesh lie on an image, as on a palette, and are not just a pair of numbers. */
function isSpread({ name, typeName }: ComposedProperty): boolean {
  const { array } = shapeOfType(typeName);
  return array && (typeName.startsWith('texCoord') || /^primvars:(st|uv|map)/i.test(name));
}

function entriesNeeded(domain: Layer['domain'], mesh: PolygonMesh) {
  if (domain === 'corner') return mesh.faceCorners.length;
  return domain === 'face' ? mesh.faceCounts.length : mesh.points.length / 3;
}

function keptElementsOf(domain: Layer['domain'], context: Context) {
  if (domain === 'corner') return context.keptCorners;
  return domain === 'face' ? context.kept : null;
}

/** Faces of each GeomSubset of a mesh that is about materials, by their written numbers. */
export function readSubsets(prim: ComposedPrim): { prim: ComposedPrim; faces: Float64Array }[] {
  return prim.children
    .filter(
      (child) =>
        child.typeName === 'GeomSubset' &&
        (textOf(get(child, 'elementType')) ?? 'face') === 'face' &&
        isOfMaterials(child),
    )
    .map((child) => ({ prim: child, faces: numbersOf(get(child, 'indices')) ?? new Float64Array(0) }));
}

/** Subsets of other families pick faces for something else; some programs leave the family out. */
function isOfMaterials(subset: ComposedPrim): boolean {
  return (
    textOf(get(subset, 'familyName')) === 'materialBind' ||
    [...subset.properties.keys()].some((name) => name.startsWith('material:binding'))
  );
}
