import { asPicked } from '../../scene/colours.ts';
import type { IndexArray, Layer, MorphShape, PolygonMesh } from '../../scene/document.ts';
import { tangentFrames } from '../../scene/tangents.ts';
import { doubles, I, integers, object, record, S } from './records.ts';
import type { FbxNode } from './tree.ts';

/** The Geometry record of a mesh: polygons as they are, layers indexed where they are indexed. */
export function geometryRecord(mesh: PolygonMesh, id: number): FbxNode {
  const ends = Int32Array.from(mesh.faceCorners);
  let offset = 0;
  for (const count of mesh.faceCounts) {
    offset += count;
    ends[offset - 1] = ~ends[offset - 1];
  }
  const elements: { type: string; index: number; node: FbxNode }[] = [];
  const add = (type: string, index: number, children: FbxNode[]) => {
    elements.push({
      type,
      index,
      node: record(
        type,
        [I(index)],
        [record('Version', [I(type === 'LayerElementSmoothing' ? 102 : 101)]), ...children],
      ),
    });
  };
  const layer = (type: string, index: number, source: Layer | null, names: LayerNames) => {
    if (source) add(type, index, layerChildren(spread(source, mesh), names));
  };
  layer('LayerElementNormal', 0, mesh.normals, { values: 'Normals', indices: 'NormalsIndex' });
  const frames = tangentFrames(mesh);
  layer('LayerElementBinormal', 0, frames?.binormals ?? null, {
    values: 'Binormals',
    indices: 'BinormalsIndex',
  });
  layer('LayerElementTangent', 0, frames?.tangents ?? null, { values: 'Tangents', indices: 'TangentsIndex' });
  mesh.uvSets.forEach((uv, i) => layer('LayerElementUV', i, uv, { values: 'UV', indices: 'UVIndex' }));
  mesh.colours.forEach((colour, i) =>
    layer('LayerElementColor', i, asPicked(colour), { values: 'Colors', indices: 'ColorIndex', fill: 1 }),
  );
  const edges = mesh.hardEdges ? edgeList(mesh) : null;
  if (edges)
    add('LayerElementSmoothing', 0, mapping('', 'ByEdge', 'Direct', [integers('Smoothing', edges.smooth)]));
  else if (mesh.faceSmoothing)
    add(
      'LayerElementSmoothing',
      0,
      mapping('', 'ByPolygon', 'Direct', [integers('Smoothing', mesh.faceSmoothing)]),
    );
  const slots = mesh.faceMaterial;
  add(
    'LayerElementMaterial',
    0,
    mapping('', slots ? 'ByPolygon' : 'AllSame', 'IndexToDirect', [integers('Materials', slots ?? [0])]),
  );
  const layers = [...new Set(elements.map((element) => element.index))].sort((a, b) => a - b);
  return object('Geometry', id, { name: mesh.name, subclass: 'Mesh' }, [
    record('GeometryVersion', [I(124)]),
    doubles('Vertices', mesh.points),
    record('PolygonVertexIndex', [{ type: 'i', value: ends }]),
    ...(edges ? [integers('Edges', edges.corners)] : []),
    ...elements.map((element) => element.node),
    ...layers.map((index) =>
      record(
        'Layer',
        [I(index)],
        [
          record('Version', [I(100)]),
          ...elements
            .filter((element) => element.index === index)
            .map((element) =>
              record(
                'LayerElement',
                [],
                [record('Type', [S(element.type)]), record('TypedIndex', [I(index)])],
              ),
            ),
        ],
      ),
    ),
  ]);
}

/** Readers elsewhere know layers by point and by corner; values by face are pointed at from every corner. */
function spread(layer: Layer, mesh: PolygonMesh): Layer {
  if (layer.domain !== 'face') return layer;
  const index = new Uint32Array(mesh.faceCorners.length);
  let corner = 0;
  mesh.faceCounts.forEach((count, face) => {
    index.fill(layer.index ? layer.index[face] : face, corner, corner + count);
    corner += count;
  });
  return { ...layer, domain: 'corner', index };
}

/** What the records of a layer are called. */
interface LayerNames {
  values: string;
  indices: string;
  /** The fourth number of values that have three. */
  fill?: number;
}

function layerChildren(layer: Layer, { values, indices, fill }: LayerNames): FbxNode[] {
  const domain = layer.domain === 'corner' ? 'ByPolygonVertex' : 'ByVertice';
  const written = fill !== undefined && layer.size === 3 ? widen(layer, fill) : layer.values;
  const list = [doubles(values, written)];
  if (layer.index) list.push(integers(indices, layer.index as IndexArray));
  return mapping(layer.name, domain, layer.index ? 'IndexToDirect' : 'Direct', list);
}

function mapping(name: string, domain: string, reference: string, values: FbxNode[]): FbxNode[] {
  return [
    record('Name', [S(name)]),
    record('MappingInformationType', [S(domain)]),
    record('ReferenceInformationType', [S(reference)]),
    ...values,
  ];
}

/** Three components as four. */
function widen(layer: Layer, fill: number): Float64Array {
  const count = layer.values.length / 3;
  const out = new Float64Array(count * 4).fill(fill);
  for (let i = 0; i < count; i += 1) for (let k = 0; k < 3; k += 1) out[i * 4 + k] = layer.values[i * 3 + k];
  return out;
}

/** Every edge once, by the corner where it starts, and whether shading runs smoothly across it. */
function edgeList(mesh: PolygonMesh): { corners: number[]; smooth: number[] } {
  const points = mesh.points.length / 3;
  const key = (a: number, b: number) => (a < b ? a * points + b : b * points + a);
  const hard = new Set<number>();
  const pairs = mesh.hardEdges ?? new Uint32Array(0);
  for (let i = 0; i + 1 < pairs.length; i += 2) hard.add(key(pairs[i], pairs[i + 1]));
  const seen = new Set<number>();
  const out = { corners: [] as number[], smooth: [] as number[] };
  let start = 0;
  for (const count of mesh.faceCounts) {
    for (let i = 0; i < count; i += 1) {
      const edge = key(mesh.faceCorners[start + i], mesh.faceCorners[start + ((i + 1) % count)]);
      if (seen.has(edge)) continue;
      seen.add(edge);
      out.corners.push(start + i);
      out.smooth.push(hard.has(edge) ? 0 : 1);
    }
    start += count;
  }
  return out;
}

/** The Geometry record of a morph target. */
export function shapeRecord(shape: MorphShape, id: number): FbxNode {
  return object('Geometry', id, { name: shape.name, subclass: 'Shape' }, [
    record('Version', [I(100)]),
    integers('Indexes', shape.points),
    doubles('Vertices', shape.offsets),
    ...(shape.normalOffsets ? [doubles('Normals', shape.normalOffsets)] : []),
  ]);
}
