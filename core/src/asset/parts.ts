import { pieceName } from '../scene/cutParts.ts';
import type { Vec3 } from '../scene/document.ts';
import type { Material } from '../scene/material.ts';
import { identity, type Matrix4 } from '../scene/matrix.ts';
import type { Bounds } from '../scene/measure.ts';
import { mergeBounds } from '../scene/measure.ts';
import { freshKey } from '../scene/nodeNumbers.ts';
import {
  type Collision,
  CUTS,
  type CutBy,
  collisionIn,
  type PartChange,
  type Placement,
  partsTouched,
} from '../scene/partChange.ts';
import { placementMatrix } from '../scene/placeParts.ts';
import { type Form, placedForm } from '../shape/form.ts';
import type { ShapeFacts } from '../shape/shapeFacts.ts';
import { type AssetNode, type AssetSource, type AssetState, type Edit, nodeKeys } from './asset.ts';
import {
  appliedTo,
  isMirrored,
  moved,
  originOf,
  pivotedAt,
  placedBounds,
  placeOfNode,
  resetTo,
} from './partPlaces.ts';

/** A part as it stands after the edits. */
export interface Part {
  key: string;
  name: string;
  /** Key of the part above it; null at the root. */
  parent: string | null;
  kind: string;
  polygons: number;
  /** Keys of its materials by slot, '' for none; empty without a mesh. */
  slots: string[];
  /** The same as the file has them, whatever edits gave it: what its pieces go by. */
  slotKeys: string[];
  /** World space, metres, in the model's own axes. */
  bounds: Bounds | null;
  pivot: [number, number, number] | null;
  /** Its own space in the world, and what its mesh reaches in it where that is known. */
  frame: Matrix4;
  box: Bounds | null;
  /** It follows joints, wherever it is put; or some clip moves it. */
  skinned: boolean;
  moves: boolean;
  flips: boolean;
  mirrored: boolean;
  /** The file hides it, by itself or by what it hung on there. */
  hidden: boolean;
  dropped: boolean;
  collision: Collision | null;
  /** How it is to be cut, once it goes out, where its pieces are not known before. */
  cut: 'materials' | 'solids' | null;
  /** Keys of the parts that were merged into it. */
  merged: string[];
  /** Which of the source's meshes it shows; null for none, and for what edits have put together. */
  shape: number | null;
  facts: ShapeFacts | null;
  /** Whether it shows faces of its own. */
  solid: boolean;
  /** Its form, by which others of the same form are found. */
  form: Form | null;
  /** What it falls apart into. */
  pieces: Partial<Record<CutBy, Piece[]>>;
}

/** A piece that a part falls apart into when it is cut. */
export interface Piece {
  faces: number;
  slots: number[];
  form: Form | null;
  bounds: Bounds | null;
}

/** What partsOf needs of a state. */
export type PartsState = Pick<AssetState, 'bindings' | 'parts' | 'merged'> & {
  materials?: readonly Pick<Material, 'key' | 'name'>[];
};

/** The parts of an asset as edits have left them, in the order of the source; what edits made comes last. */
export function partsOf(source: Pick<AssetSource, 'nodes' | 'shapes' | 'upAxis'>, state: PartsState): Part[] {
  const keys = nodeKeys(source.nodes);
  const { bindings = {}, parts: changes = [], merged = {} } = state;
  const parts = new Map<string, Part>();
  source.nodes.forEach((node, i) => {
    const bound = bindings[keys[i]];
    const slots = (node.slots ?? node.materials ?? [])
      .map((key) => bound ?? key)
      .map((key) => merged[key] ?? key);
    parts.set(keys[i], {
      key: keys[i],
      name: node.name,
      parent: node.parent < 0 ? null : keys[node.parent],
      kind: node.kind,
      polygons: node.polygons,
      slots,
      slotKeys: node.slots ?? node.materials ?? [],
      ...placeOfNode(node),
      skinned: node.skinned ?? false,
      moves: node.moves ?? false,
      flips: node.flips ?? false,
      mirrored: node.mirrored ?? false,
      hidden: node.hidden ?? false,
      dropped: false,
      collision: null,
      cut: null,
      merged: [],
      shape: node.shape ?? null,
      ...factsOf(node, source.shapes),
    });
  });
  const names = new Map(state.materials?.map(({ key, name }) => [key, name]));
  for (const change of changes)
    changeParts(parts, change, { up: source.upAxis, nameOf: (key) => names.get(key) ?? key });
  if (changes.length > 0) tellMirrored(parts, source.nodes);
  const keySet = new Set(keys);
  // What edits made is bound by the key that it has now.
  for (const part of parts.values()) {
    if (keySet.has(part.key) || !part.solid || !Object.hasOwn(bindings, part.key)) continue;
    const bound = bindings[part.key];
    part.slots = part.slots.map(() => merged[bound] ?? bound);
  }
  // What was hung on a dropped part goes with it.
  const dropped = [...parts.values()].filter((part) => part.dropped).map(({ key }) => key);
  for (const part of withBelow(parts, dropped)) part.dropped = true;
  return [...parts.values()];
}

/** Who flips and who stands mirrored, once parts hang and stand elsewhere. */
function tellMirrored(parts: ReadonlyMap<string, Part>, nodes: readonly AssetNode[]): void {
  // A source that was read before spaces were told has no more than what it says.
  if (nodes.some(({ flips, mirrored, frame }) => (flips || mirrored) && !frame)) return;
  for (const part of parts.values()) {
    part.mirrored = isMirrored(part.frame);
    part.flips = part.mirrored !== isMirrored(frameAbove(parts, part));
  }
}

function frameAbove(parts: ReadonlyMap<string, Part>, { parent }: Part): Matrix4 {
  return parts.get(parent ?? '')?.frame ?? identity();
}

function factsOf(
  { shape, pieces: placed, polygons, scale = [1, 1, 1], mirrored = false }: AssetNode,
  shapes: AssetSource['shapes'],
): Pick<Part, 'facts' | 'solid' | 'form' | 'pieces'> {
  const facts = (shape === undefined ? undefined : shapes?.[shape]) ?? null;
  const standing = (form: Form) => placedForm(form, scale, mirrored);
  const pieces: Part['pieces'] = {};
  for (const by of CUTS) {
    const listed = facts?.pieces?.[by];
    if (Array.isArray(listed))
      pieces[by] = listed.map((piece, i) => ({
        ...piece,
        form: standing(piece.form),
        bounds: placed?.[by]?.[i] ?? null,
      }));
  }
  return {
    facts,
    solid: shape !== undefined || polygons > 0,
    form: facts?.form ? standing(facts.form) : null,
    pieces,
  };
}

/** Parts that edits name and that are not there, in words; the edit's place in the log beside each. */
export function missingParts(
  source: Pick<AssetSource, 'nodes'>,
  edits: readonly Edit[],
): { edit: number; what: string }[] {
  if (!edits.some(({ kind }) => kind === 'editParts')) return [];
  const missing: { edit: number; what: string }[] = [];
  const parts = new Map(partsOf({ ...source, upAxis: 'Y' }, {}).map((part) => [part.key, part]));
  edits.forEach((edit, i) => {
    if (edit.kind !== 'editParts') return;
    for (const key of partsTouched(edit.change))
      if (!parts.has(key)) missing.push({ edit: i, what: `part ${key}` });
    changeParts(parts, edit.change, { up: 'Y', nameOf: (name) => name });
  });
  return missing;
}

/** Makes one change in place; parts that are not there are passed over. */
function changeParts(
  parts: Map<string, Part>,
  change: PartChange,
  { up, nameOf }: { up: AssetSource['upAxis']; nameOf(material: string): string },
): void {
  const present = (keys: readonly string[]) => keys.flatMap((key) => parts.get(key) ?? []);
  switch (change.do) {
    case 'drop':
    case 'restore':
      for (const part of withBelow(parts, change.parts)) part.dropped = change.do === 'drop';
      // What is brought back stands below what holds it.
      if (change.do === 'restore')
        for (const part of present(change.parts))
          for (const above of aboveOf(parts, part)) above.dropped = false;
      return;
    case 'rename':
      for (const { part, name } of change.names) Object.assign(parts.get(part) ?? {}, { name });
      return;
    case 'move':
      for (const part of present(change.parts)) {
        const { under } = change;
        // Nothing hangs below itself.
        const inside = under !== null && withBelow(parts, [part.key]).some(({ key }) => key === under);
        if (!inside && (under === null || parts.has(under))) part.parent = under;
      }
      return;
    case 'group':
      return group(parts, present(change.parts), change.name);
    case 'ungroup':
      for (const part of present(change.parts)) {
        if (part.kind !== 'group') continue;
        for (const child of parts.values()) if (child.parent === part.key) child.parent = part.parent;
        parts.delete(part.key);
      }
      return;
    case 'merge':
      return merge(parts, present(change.parts), change.name);
    case 'cut':
      for (const part of present(change.parts)) if (part.solid) cut(parts, part, change.by, nameOf);
      return;
    case 'turnFaces':
      for (const part of present(change.parts)) part.facts = part.facts && turned(part.facts);
      return;
    case 'agreeFaces':
      for (const part of present(change.parts))
        part.facts = part.facts && { ...part.facts, mixedEdges: 0, inward: { solids: 0, faces: 0 } };
      return;
    case 'normals':
      for (const part of present(change.parts))
        part.facts = part.facts && { ...part.facts, normals: { written: true, against: 0, broken: 0 } };
      return;
    case 'pivot':
      return movePivots(parts, present(change.parts), change.at, up);
    case 'apply':
      for (const part of present(change.parts))
        if (!part.skinned && !part.moves) Object.assign(part, appliedTo(part, frameAbove(parts, part)));
      return;
    case 'place':
      return placeAll(parts, present(change.parts), change);
    case 'reset':
      return resetAll(parts, present(change.parts));
    case 'collision':
      for (const part of present(change.parts)) part.collision = collisionIn(change);
  }
}

function aboveOf(parts: ReadonlyMap<string, Part>, part: Part): Part[] {
  const above = new Set<Part>();
  for (let next = parts.get(part.parent ?? ''); next && !above.has(next); next = parts.get(next.parent ?? ''))
    above.add(next);
  return [...above];
}

type Children = ReadonlyMap<string, readonly Part[]>;

/** What hangs on each part. */
function childrenOf(parts: ReadonlyMap<string, Part>): Children {
  const children = new Map<string, Part[]>();
  for (const part of parts.values()) {
    if (part.parent === null) continue;
    const list = children.get(part.parent);
    if (list) list.push(part);
    else children.set(part.parent, [part]);
  }
  return children;
}

/** Parts with all that hangs below them; what hangs on each may be known from before. */
export function withBelow(
  parts: ReadonlyMap<string, Part>,
  keys: readonly string[],
  children: Children = childrenOf(parts),
): Part[] {
  const partSet = new Set<Part>(keys.flatMap((key) => parts.get(key) ?? []));
  // What is added while it is walked is walked too.
  for (const part of partSet) for (const child of children.get(part.key) ?? []) partSet.add(child);
  return [...partSet];
}

/** What a group says of itself. */
const EMPTY = {
  kind: 'group',
  bounds: null,
  box: null,
  skinned: false,
  moves: false,
  polygons: 0,
  slots: [],
  slotKeys: [],
  flips: false,
  mirrored: false,
  hidden: false,
  dropped: false,
  collision: null,
  cut: null,
  merged: [],
  shape: null,
  facts: null,
  solid: false,
  form: null,
  pieces: {},
};

/** A part becomes a group that holds its pieces. Where they are not known it is only marked. */
function cut(parts: Map<string, Part>, part: Part, by: CutBy, nameOf: (material: string) => string): void {
  const pieces = part.pieces[by];
  if (!pieces) part.cut = by;
  if (!pieces || pieces.length === 0) return;
  pieces.forEach(({ faces, slots, form, bounds }, i) => {
    const material = part.slots[slots[0]] || undefined;
    const [key, name] =
      by === 'solids' ? [i, i] : [part.slotKeys[slots[0]] || undefined, material && nameOf(material)];
    const pieceKey = freshKey((other) => parts.has(other), pieceName(part.key, key));
    parts.set(pieceKey, {
      ...part,
      key: pieceKey,
      name: pieceName(part.name, name),
      parent: part.key,
      polygons: faces,
      slots: pieceSlots(by, part, material),
      slotKeys: by === 'solids' ? part.slotKeys : [],
      bounds,
      box: null,
      merged: [],
      shape: null,
      facts: null,
      form,
      pieces: {},
    });
  });
  const { key, name, parent, pivot, frame, dropped, collision, flips, mirrored } = part;
  Object.assign(part, EMPTY, { key, name, parent, pivot, frame, dropped, collision, flips, mirrored });
}

function pieceSlots(by: CutBy, part: Part, material: string | undefined): string[] {
  if (by === 'solids') return part.slots;
  return material ? [material] : [];
}

function group(parts: Map<string, Part>, members: readonly Part[], name: string): void {
  if (members.length === 0) return;
  const key = freshKey((other) => parts.has(other), name);
  const { parent } = members[0];
  const frame = frameAbove(parts, members[0]);
  const pivot = members[0].pivot && originOf(frame);
  parts.set(key, { ...EMPTY, key, name, parent, frame, pivot });
  // A group within one of its own members does not hold it.
  const above = new Set(aboveOf(parts, parts.get(key) as Part));
  for (const part of members) if (!above.has(part)) part.parent = key;
}

function merge(parts: Map<string, Part>, members: readonly Part[], name: string): void {
  const [first, ...others] = members.filter(({ solid }) => solid);
  if (!first || others.length === 0) return;
  // It hangs above whatever of the others holds it, since they go.
  for (const above of aboveOf(parts, first)) if (others.includes(above)) first.parent = above.parent;
  for (const part of others) {
    for (const child of parts.values()) if (child.parent === part.key) child.parent = first.key;
    parts.delete(part.key);
  }
  const all = [first, ...others];
  Object.assign(first, {
    name,
    merged: [...first.merged, ...others.flatMap(({ key, merged }) => [key, ...merged])],
    polygons: all.reduce((sum, { polygons }) => sum + polygons, 0),
    slots: [...new Set(all.flatMap(({ slots }) => slots))],
    bounds: mergeBounds(all.map(({ bounds }) => bounds)),
    box: null,
    shape: null,
    facts: null,
    form: null,
    pieces: {},
  });
}

/** Parts stand elsewhere with all that hangs on them, but for those that follow joints. */
function placeAll(parts: Map<string, Part>, chosen: readonly Part[], placement: Placement): void {
  const matrix = placementMatrix(placement);
  const { scale } = placement;
  const standing = (form: Form) => placedForm(form, [scale, scale, scale], false);
  const able = chosen.filter(({ skinned }) => !skinned).map(({ key }) => key);
  for (const part of withBelow(parts, able)) {
    move(part, matrix);
    part.form = part.form && standing(part.form);
    for (const pieces of Object.values(part.pieces))
      for (const piece of pieces) piece.form = piece.form && standing(piece.form);
  }
}

function move(part: Part, matrix: Matrix4): void {
  Object.assign(part, moved(part, matrix));
  for (const [by, pieces] of Object.entries(part.pieces))
    part.pieces[by as CutBy] = pieces.map((piece) => ({
      ...piece,
      bounds: piece.bounds && placedBounds(piece.bounds, matrix),
    }));
}

/** Without their own transforms; how large they are then, their forms do not know any more. */
function resetAll(parts: Map<string, Part>, chosen: readonly Part[]): void {
  const children = childrenOf(parts);
  for (const part of chosen) {
    const { place, by } = resetTo(part, frameAbove(parts, part));
    for (const below of withBelow(parts, [part.key], children)) {
      move(below, by);
      Object.assign(below, { form: null, pieces: withoutForms(below.pieces) });
    }
    Object.assign(part, place);
  }
}

/** What looked inwards looks outwards then, and the other way round. */
function turned(facts: ShapeFacts): ShapeFacts {
  const inside = facts.inward.solids > 0;
  const inward = inside
    ? { solids: 0, faces: 0 }
    : { solids: facts.closed, faces: facts.closed > 0 ? facts.faces : 0 };
  return { ...facts, inward, normals: { ...facts.normals, against: 0 } };
}

function withoutForms(pieces: Part['pieces']): Part['pieces'] {
  return Object.fromEntries(
    Object.entries(pieces).map(([by, list]) => [by, list.map((piece) => ({ ...piece, form: null }))]),
  );
}

function movePivots(
  parts: Map<string, Part>,
  chosen: readonly Part[],
  at: Extract<PartChange, { do: 'pivot' }>['at'],
  up: AssetSource['upAxis'],
): void {
  const children = childrenOf(parts);
  for (const part of chosen) {
    if (part.skinned) continue;
    const below = withBelow(parts, [part.key], children);
    const pivot = pivotAt(mergeBounds(below.map(({ bounds }) => bounds)), at, up);
    if (pivot) Object.assign(part, pivotedAt(part, pivot));
  }
}

function pivotAt(
  bounds: Bounds | null,
  at: Extract<PartChange, { do: 'pivot' }>['at'],
  up: AssetSource['upAxis'],
): Vec3 | null {
  if (typeof at !== 'string') return [...at];
  if (at === 'origin') return [0, 0, 0];
  if (!bounds) return null;
  // The balance point in the world is worked out when the model goes out; it lies within the bounds.
  const middle = [0, 1, 2].map((k) => (bounds.min[k] + bounds.max[k]) / 2) as Vec3;
  if (at === 'bottom') middle['XYZ'.indexOf(up)] = bounds.min['XYZ'.indexOf(up)];
  return middle;
}

/** Parts as reports list them. Plain JSON. */
export function reportParts(source: AssetSource, state: AssetState) {
  const byKey = new Map(state.materials.map((material) => [material.key, material]));
  return partsOf(source, state).map(
    ({ key, name, parent, kind, polygons, slots, facts, bounds, pivot, mirrored, dropped }) => {
      const used = facts ? facts.uvs.map(({ slot }) => slots[slot] ?? '') : slots;
      const materials = [...new Set(used)].filter((material) => byKey.has(material));
      return {
        key,
        name,
        parent,
        kind,
        polygons,
        materials,
        bounds,
        pivot: pivot ?? [0, 0, 0],
        mirrored,
        dropped,
      };
    },
  );
}
