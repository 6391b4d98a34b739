import {
  addUncarried,
  type Influences,
  type MorphShape,
  type PolygonMesh,
  type SceneDocument,
} from '../../scene/document.ts';
import { sharesAt } from '../../scene/inBetweens.ts';
import { invertAffine } from '../../scene/matrix.ts';
import type { FbxObject, ObjectTable } from './objects.ts';
import type { Placed } from './readNodes.ts';
import { childOf, integersOf, numberAt, numbersOf } from './tree.ts';

/** Reads skins and blend shapes of every mesh that was placed. */
export function readDeformers(document: SceneDocument, table: ObjectTable, { nodes, meshes }: Placed): void {
  for (const [geometry, index] of meshes) {
    const mesh = document.meshes[index];
    const links = table.childrenOf(geometry).map((link) => link.object);
    const skins = links.filter((object) => object.kind === 'Deformer' && object.subclass === 'Skin');
    const morphs = links.filter((object) => object.kind === 'Deformer' && object.subclass === 'BlendShape');
    const clusters = skins
      .flatMap((skin) => table.childrenOf(skin.id).map((link) => link.object))
      .filter((object) => object.subclass === 'Cluster');
    if (clusters.length > 0) readSkin({ document, table, nodes }, index, clusters, skins[0].name);
    for (const morph of morphs) readShapes(document, mesh, morph, table);
    for (const object of links) {
      if (object.kind === 'Deformer' && object.subclass !== 'Skin' && object.subclass !== 'BlendShape') {
        addUncarried(document.remarks, `deformers of kind ${object.subclass}`, object.name);
      }
    }
  }
}

/** What bones are found by, and where skins go. */
interface SkinReading {
  document: SceneDocument;
  table: ObjectTable;
  nodes: Map<string, number>;
}

function readSkin(
  { document, table, nodes }: SkinReading,
  meshIndex: number,
  clusters: FbxObject[],
  name: string,
): void {
  const mesh = document.meshes[meshIndex];
  const joints: number[] = [];
  const used: FbxObject[] = [];
  for (const cluster of clusters) {
    const bone = table.childrenOf(cluster.id).find((link) => link.object.kind === 'Model')?.object;
    const node = bone && nodes.get(bone.id);
    if (node === undefined)
      addUncarried(document.remarks, 'clusters without a bone', cluster.name, { why: 'they move nothing' });
    else {
      joints.push(node);
      used.push(cluster);
    }
  }
  if (joints.length === 0) return;
  const inverseBind = new Float64Array(joints.length * 16);
  used.forEach((cluster, j) => inverseBind.set(bindMatrix(cluster), j * 16));
  const skin = document.skins.push({ name: name || mesh.name, joints, inverseBind }) - 1;
  mesh.influences = gatherInfluences(used, mesh.points.length / 3);
  for (const node of document.nodes) if (node.mesh === meshIndex) node.skin = skin;
}

/**
 * `Transform` takes the mesh to the bone at bind time; without it the bone's own bind matrix stands alone.
 */
function bindMatrix(cluster: FbxObject): Float64Array {
  const transform = numbersOf(childOf(cluster.node, 'Transform'));
  if (transform?.length === 16) return transform;
  const link = numbersOf(childOf(cluster.node, 'TransformLink'));
  return link?.length === 16
    ? invertAffine(link)
    : Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1);
}

/** Turns "points per bone" into "bones per point", in two passes over the clusters. */
function gatherInfluences(clusters: FbxObject[], points: number): Influences {
  const lists = clusters.map(({ node }) => ({
    indices: integersOf(childOf(node, 'Indexes')) ?? new Int32Array(0),
    weights: numbersOf(childOf(node, 'Weights')) ?? new Float64Array(0),
  }));
  const starts = new Uint32Array(points + 1);
  const each = (visit: (joint: number, point: number, weight: number) => void) => {
    lists.forEach(({ indices, weights }, joint) => {
      for (let i = 0; i < indices.length; i += 1) {
        if (indices[i] >= 0 && indices[i] < points && weights[i] > 0) visit(joint, indices[i], weights[i]);
      }
    });
  };
  each((_, point) => {
    starts[point + 1] += 1;
  });
  for (let p = 0; p < points; p += 1) starts[p + 1] += starts[p];
  const next = starts.slice(0, points);
  const joints = new Uint32Array(starts[points]);
  const weights = new Float32Array(starts[points]);
  each((joint, point, weight) => {
    joints[next[point]] = joint;
    weights[next[point]] = weight;
    next[point] += 1;
  });
  return { starts, joints, weights };
}

function readShapes(document: SceneDocument, mesh: PolygonMesh, morph: FbxObject, table: ObjectTable): void {
  for (const { object: channel } of table.childrenOf(morph.id)) {
    if (channel.subclass !== 'BlendShapeChannel') continue;
    const targets = shapesOf(channel, table);
    if (targets.length === 0) continue;
    if (targets.length > 1)
      addUncarried(document.remarks, 'in-between shapes', channel.name, {
        why: 'each is a shape of its own, which moves as the channel says',
      });
    const percent =
      channel.properties.number('DeformPercent') ?? numberAt(childOf(channel.node, 'DeformPercent'), 0) ?? 0;
    const stops = stopsOf(channel, targets.length);
    const shares = sharesAt(stops, percent);
    targets.forEach((target, i) => {
      const last = i === targets.length - 1;
      const ownName = target.name || `${channel.name} ${stops[i]}`;
      mesh.shapes.push({
        ...readShape(target, mesh),
        name: last ? channel.name || target.name : ownName,
        weight: shares[i],
      });
    });
  }
}

/** Shapes of a channel, in the order in which it goes through them. */
export function shapesOf(channel: FbxObject, table: ObjectTable): FbxObject[] {
  return table
    .childrenOf(channel.id)
    .map(({ object }) => object)
    .filter(({ kind, subclass }) => kind === 'Geometry' && subclass === 'Shape');
}

/**
 * The percent at which each of a channel's shapes stands as it is written, rising; evenly up to 100 where
 * nothing that can be is said.
 */
export function stopsOf(channel: FbxObject, shapes: number): number[] {
  const stated = [...(numbersOf(childOf(channel.node, 'FullWeights')) ?? [])].slice(0, shapes);
  const rises = stated.every((stop, i) => Number.isFinite(stop) && stop > (stated[i - 1] ?? 0));
  if (stated.length === shapes && rises) return stated;
  return Array.from({ length: shapes }, (_, i) => ((i + 1) * 100) / shapes);
}

function readShape(shape: FbxObject, mesh: PolygonMesh): Omit<MorphShape, 'name' | 'weight'> {
  const limit = mesh.points.length / 3;
  const indices = integersOf(childOf(shape.node, 'Indexes')) ?? new Int32Array(0);
  const offsets = numbersOf(childOf(shape.node, 'Vertices')) ?? new Float64Array(0);
  const normals = numbersOf(childOf(shape.node, 'Normals'));
  const keptIndices = [...indices.keys()].filter(
    (i) => indices[i] >= 0 && indices[i] < limit && i * 3 + 2 < offsets.length,
  );
  const pick = (values: Float64Array) =>
    Float64Array.from(
      { length: keptIndices.length * 3 },
      (_, i) => values[keptIndices[Math.floor(i / 3)] * 3 + (i % 3)],
    );
  return {
    points: Uint32Array.from(keptIndices, (i) => indices[i]),
    offsets: pick(offsets),
    normalOffsets: normals && normals.length >= indices.length * 3 ? pick(normals) : null,
  };
}
