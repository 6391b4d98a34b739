import { facesToTurn } from './agreeFaces.ts';
import { cutParts } from './cutParts.ts';
import {
  createNode,
  identityTransform,
  layerEntry,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  type Vec3,
} from './document.ts';
import {
  type BalanceOf,
  inSpace,
  type Keyed,
  movedNodes,
  type Tools,
  withGeometry,
  withMeshes,
  withMotionIn,
  withNodes,
} from './keyedDocument.ts';
import type { Loss } from './loss.ts';
import { geometricMatrix, identity, invertAffine, type Matrix4, multiply, worldMatrices } from './matrix.ts';
import { mergeMeshes } from './mergeMeshes.ts';
import { applyTransform, isIdentity, movePivot, zero } from './movePivot.ts';
import { freshKey, parentsFirst, removeNodes, withNodeOrder } from './nodeNumbers.ts';
import { normalsByAngle } from './normals.ts';
import { type CutBy, collisionIn, type PartChange } from './partChange.ts';
import { placeParts } from './placeParts.ts';
import { bakeMesh, turnFaces } from './reorient.ts';
import { faceNormal } from './triangulate.ts';

/** A document after changes of its parts, with what they could not keep. */
export interface ChangedParts {
  document: SceneDocument;
  /** Of its nodes. */
  keys: string[];
  losses: Loss[];
}

/**
 * The document with its parts changed, one change after the other. `keys` are those of its nodes. Parts that
 * are not there are passed over. Skins and clips keep what they can; what they cannot is told. The document
 * itself is not changed.
 */
export function changeParts(
  document: SceneDocument,
  keys: readonly string[],
  changes: readonly PartChange[],
  balanceOf: BalanceOf,
): ChangedParts {
  const losses: Loss[] = [];
  let keyed: Keyed = { document, keys: [...keys] };
  const dropped = new Set<string>();
  for (const change of changes) {
    // What is dropped stays until the end, since it may be brought back.
    if (change.do === 'drop') for (const key of withBelow(keyed, change.parts)) dropped.add(key);
    else if (change.do === 'restore') restore(keyed, change.parts, dropped);
    else {
      keyed = changed(keyed, change, { losses, balanceOf });
      // A key that is free again may be given to another part, which is not dropped.
      const present = dropped.size > 0 ? new Set(keyed.keys) : null;
      for (const key of dropped) if (!present?.has(key)) dropped.delete(key);
    }
  }
  const gone = new Set(keyed.keys.flatMap((key, i) => (dropped.has(key) ? [i] : [])));
  return { ...(gone.size > 0 ? without(keyed, gone) : keyed), losses };
}

/** Without these and all that hangs below them; joints that are still needed stay. */
function without({ document, keys }: Keyed, gone: ReadonlySet<number>): Keyed {
  const { document: left, kept: keptNodes } = removeNodes(document, gone);
  return { document: left, keys: keptNodes.map((index) => keys[index]) };
}

/** Keys of parts and of all that hangs below them. */
function withBelow({ document, keys }: Keyed, parts: readonly string[]): string[] {
  const there = new Set(keys);
  const present = new Set(parts.filter((part) => there.has(part)));
  document.nodes.forEach(({ parent }, i) => {
    if (parent >= 0 && present.has(keys[parent])) present.add(keys[i]);
  });
  return [...present];
}

/** Brings parts back with all that hangs below them, and with what they hang on. */
function restore(keyed: Keyed, parts: readonly string[], dropped: Set<string>): void {
  for (const key of withBelow(keyed, parts)) dropped.delete(key);
  const { nodes } = keyed.document;
  for (const part of parts)
    for (let index = nodes[keyed.keys.indexOf(part)]?.parent ?? -1; index >= 0; index = nodes[index].parent)
      dropped.delete(keyed.keys[index]);
}

function changed(keyed: Keyed, change: Exclude<PartChange, { do: 'drop' | 'restore' }>, tools: Tools): Keyed {
  const places = (keys: readonly string[]) =>
    keys.map((key) => keyed.keys.indexOf(key)).filter((index) => index >= 0);
  const meshes = (keys: readonly string[]) =>
    places(keys).filter((index) => keyed.document.nodes[index].mesh >= 0);
  switch (change.do) {
    case 'rename': {
      const names = new Map(change.names.map(({ part, name }) => [part, name]));
      return withNodes(keyed, (node, i) => ({ ...node, name: names.get(keyed.keys[i]) ?? node.name }));
    }
    case 'move': {
      const under = change.under === null ? -1 : keyed.keys.indexOf(change.under);
      return change.under !== null && under < 0 ? keyed : hang(keyed, places(change.parts), under, tools);
    }
    case 'group': {
      const members = places(change.parts);
      if (members.length === 0) return keyed;
      const { parent } = keyed.document.nodes[members[0]];
      const nodes = [...keyed.document.nodes, createNode(change.name, 'group', parent)];
      return hang(
        {
          document: { ...keyed.document, nodes },
          keys: [...keyed.keys, freshKey((key) => keyed.keys.includes(key), change.name)],
        },
        members,
        nodes.length - 1,
        tools,
      );
    }
    case 'ungroup':
      return ungroup(keyed, places(change.parts), tools);
    case 'merge':
      return merge(keyed, meshes(change.parts), change.name, tools);
    case 'cut':
      return cut(keyed, new Set(meshes(change.parts)), change.by, tools);
    case 'turnFaces':
      return withMeshes(keyed, meshes(change.parts), (mesh) => turnedWithNormals(mesh));
    case 'agreeFaces':
      return withMeshes(keyed, meshes(change.parts), (mesh) => turnedWithNormals(mesh, facesToTurn(mesh)));
    case 'normals':
      return withMeshes(keyed, meshes(change.parts), (mesh) => ({
        ...mesh,
        normals: normalsByAngle(mesh, change.angle),
        faceSmoothing: null,
        hardEdges: null,
        tangents: null,
      }));
    case 'pivot':
      return places(change.parts).reduce(
        (before, index) => movePivot(before, index, change.at, tools),
        keyed,
      );
    case 'apply':
      return places(change.parts).reduce((before, index) => applyTransform(before, index, tools), keyed);
    case 'place':
      return placeParts(keyed, places(change.parts), change, tools);
    case 'reset':
      return withNodes(keyed, (node, i) =>
        change.parts.includes(keyed.keys[i])
          ? { ...node, transform: withGeometry(identityTransform(), node.transform) }
          : node,
      );
    case 'collision':
      return withNodes(keyed, (node, i) =>
        change.parts.includes(keyed.keys[i]) ? { ...node, collision: collisionIn(change) } : node,
      );
  }
}

/**
 * All faces, or those that are marked, the other way round; normals that looked along with them look the
 * other way too, others agree now.
 */
function turnedWithNormals(mesh: PolygonMesh, only: Uint8Array | null = null): PolygonMesh {
  const turned = turnFaces(mesh, only);
  if (!turned.normals) return { ...turned, tangents: null };
  const { normals } = turned;
  const { values } = normals;
  // By corner, since what one face wants turned another may not.
  const index = new Uint32Array(turned.faceCorners.length);
  const list: number[] = [];
  const made = new Map<string, number>();
  let first = 0;
  for (let face = 0; face < turned.faceCounts.length; face += 1) {
    const count = turned.faceCounts[face];
    const entries: number[] = [];
    for (let corner = first; corner < first + count; corner += 1) {
      entries.push(layerEntry(normals, corner, turned.faceCorners[corner], face));
    }
    const area = faceNormal(turned, first, count);
    const along = entries.reduce(
      (sum, entry) =>
        sum + area[0] * values[entry * 3] + area[1] * values[entry * 3 + 1] + area[2] * values[entry * 3 + 2],
      0,
    );
    entries.forEach((entry, i) => {
      const against = along < 0 && (only === null || only[face] === 1);
      const key = `${entry} ${against}`;
      let place = made.get(key);
      if (place === undefined) {
        place = list.length / 3;
        made.set(key, place);
        for (let k = 0; k < 3; k += 1) list.push(against ? -values[entry * 3 + k] : values[entry * 3 + k]);
      }
      index[first + i] = place;
    });
    first += count;
  }
  return {
    ...turned,
    normals: { name: normals.name, size: 3, domain: 'corner', values: Float64Array.from(list), index },
    tangents: null,
  };
}

/** Parts hang below another node and stay where they are. One that would hang below itself is left. */
function hang({ document, keys }: Keyed, parts: readonly number[], under: number, { losses }: Tools): Keyed {
  const worlds = worldMatrices(document.nodes);
  const above = new Set<number>();
  for (let index = under; index >= 0; index = document.nodes[index].parent) above.add(index);
  const moving = new Set(parts.filter((part) => !above.has(part) && document.nodes[part].parent !== under));
  const spaces = new Map<number, Matrix4>();
  const moved = movedNodes(document);
  const nodes = document.nodes.map((node, i) => {
    if (!moving.has(i)) return node;
    for (let over = node.parent; over >= 0 && !above.has(over); over = document.nodes[over].parent) {
      if (!moved.has(over)) continue;
      losses.push({ code: 'part.leftMotion', part: node.name, detail: document.nodes[over].name });
      break;
    }
    const [from, to] = [worlds[node.parent] ?? identity(), worlds[under] ?? identity()];
    if (from.every((value, k) => value === to[k])) return { ...node, parent: under };
    const into = multiply(invertAffine(to), from);
    spaces.set(i, into);
    return { ...node, parent: under, transform: inSpace(node.transform, into, moved.has(i)) };
  });
  const clips = withMotionIn(document, spaces, losses);
  const order = parentsFirst(nodes);
  return {
    document: withNodeOrder({ ...document, nodes, clips }, order),
    keys: order.map((index) => keys[index]),
  };
}

/** What hangs below a group hangs where the group did. Only what shows nothing itself is let go. */
function ungroup(keyed: Keyed, parts: readonly number[], tools: Tools): Keyed {
  const groups = [...new Set(parts)]
    .filter((part) => keyed.document.nodes[part].kind === 'group')
    .map((part) => keyed.keys[part]);
  return groups.reduce((before, key) => {
    const index = before.keys.indexOf(key);
    const { nodes } = before.document;
    const children = nodes.flatMap(({ parent }, i) => (parent === index ? [i] : []));
    const hung = hang(before, children, nodes[index].parent, tools);
    return without(hung, new Set([hung.keys.indexOf(key)]));
  }, keyed);
}

/**
 * What the first of some parts hangs on once the others are gone: nothing of them, and nothing that hangs on
 * them.
 */
function aboveAll(nodes: readonly SceneNode[], [first, ...others]: readonly number[]): number {
  let { parent } = nodes[first];
  for (let index = parent; index >= 0; index = nodes[index].parent)
    if (others.includes(index)) parent = nodes[index].parent;
  return parent;
}

/**
 * All into the first, in its space; what hung on the others hangs on it. Skinned parts cannot be merged,
 * which is told.
 */
function merge(keyed: Keyed, parts: readonly number[], name: string, tools: Tools): Keyed {
  const { losses } = tools;
  const able = parts.filter((part) => {
    const { skin, mesh, name: partName } = keyed.document.nodes[part];
    const rigid = skin < 0 && keyed.document.meshes[mesh].shapes.length === 0;
    if (!rigid) losses.push({ code: 'part.notMerged', part: partName });
    return rigid;
  });
  if (able.length < 2) return keyed;
  const members = able.map((part) => keyed.keys[part]);
  const { document, keys } = hang(keyed, able.slice(0, 1), aboveAll(keyed.document.nodes, able), tools);
  const [first, ...others] = members.map((key) => keys.indexOf(key));
  const worlds = worldMatrices(document.nodes);
  const back = invertAffine(worlds[first]);
  const materials: number[] = [];
  const pieces = [first, ...others].map((part) => {
    const { mesh, transform, materials: partSlots } = document.nodes[part];
    const slots = (partSlots.length > 0 ? partSlots : [-1]).map((material) => {
      const place = materials.indexOf(material);
      return place >= 0 ? place : materials.push(material) - 1;
    });
    const into = multiply(multiply(back, worlds[part]), geometricMatrix(transform));
    return {
      mesh:
        part === first && isIdentity(into) ? document.meshes[mesh] : bakeMesh(document.meshes[mesh], into),
      slots,
    };
  });
  const meshes = [...document.meshes, mergeMeshes(name, pieces)];
  const nodes = document.nodes.map((node, i): SceneNode => {
    if (i !== first) return node;
    const transform = {
      ...node.transform,
      geometricTranslation: zero(),
      geometricRotation: zero(),
      geometricScale: [1, 1, 1] as Vec3,
    };
    return { ...node, name, mesh: meshes.length - 1, materials, slotKeys: undefined, transform };
  });
  const gone = new Set(members.slice(1));
  const children = nodes.flatMap(({ parent }, i) => (others.includes(parent) ? [i] : []));
  const hung = hang({ document: { ...document, nodes, meshes }, keys }, children, first, tools);
  const left = new Set(hung.keys.flatMap((key, i) => (gone.has(key) ? [i] : [])));
  if (document.clips.some(({ tracks }) => tracks.some(({ node }) => others.includes(node))))
    losses.push({ code: 'part.mergedMotion', part: name });
  return without(hung, left);
}

function cut({ document, keys }: Keyed, parts: ReadonlySet<number>, by: CutBy, { losses }: Tools): Keyed {
  const result = cutParts(document, by, parts);
  losses.push(...result.losses);
  // Keys are unique, and a set keeps the order in which they were made.
  const keySet = new Set(keys);
  for (const { part, key } of result.made)
    keySet.add(freshKey((other) => keySet.has(other), `${keys[part]}${key}`));
  return { document: result.document, keys: [...keySet] };
}
