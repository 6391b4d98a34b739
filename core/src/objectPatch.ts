import { type AssetState, nodeKeys } from './asset/asset.ts';
import { editedDocument } from './asset/editedDocument.ts';
import type { AddedGroup, ObjectPatch } from './formats/fbx/patchObjects.ts';
import { once } from './remember.ts';
import type { Clip, SceneDocument, SceneNode, TransformParts } from './scene/document.ts';
import { type Loss, lossInWords } from './scene/loss.ts';

/** What a file's objects are to become, and what of it they have no record for. */
export interface ObjectChanges {
  patch: ObjectPatch;
  /** In words. */
  missed: string[];
  /** What the edits themselves cost, however they are written. */
  losses: Loss[];
}

/** What any way of writing an edit costs. */
const OF_THE_EDIT = new Set<Loss['code']>(['part.leftMotion']);

/** A document and the keys of its nodes. */
interface Side {
  document: SceneDocument;
  keys: readonly string[];
}

/**
 * What edits did to materials and parts, as far as a file's own objects can say it: names, hierarchy,
 * placement, parts that went, and which materials they show. Told by comparing the document before and after,
 * so that any edit which comes down to this can be said. Other geometry and other motion cannot.
 */
export function objectChanges(document: SceneDocument, state: AssetState): ObjectChanges {
  const before: Side = { document, keys: nodeKeys(document.nodes) };
  const { losses, ...after } = editedDocument(document, state);
  const missed = losses.filter(({ code }) => !OF_THE_EDIT.has(code)).map(lossInWords);
  const names = new Map(document.materials.map(({ key, name }) => [key, name]));
  const materials = new Map(
    state.materials.filter(({ key, name }) => names.get(key) !== name).map(({ key, name }) => [key, name]),
  );
  const remaining = new Set(after.keys);
  return {
    patch: {
      materials,
      drops: before.keys.filter((key) => !remaining.has(key)),
      ...partChanges(before, after, missed),
    },
    missed: sameMotion(before, after) ? missed : [...missed, 'clips move parts otherwise'],
    losses: losses.filter(({ code }) => OF_THE_EDIT.has(code)),
  };
}

type PartChanges = Pick<ObjectPatch, 'parts' | 'groups' | 'hung' | 'placed' | 'bound'>;

/** What became of each part that is left; what cannot be said goes to `missed`. */
function partChanges(before: Side, after: Side, missed: string[]): PartChanges {
  const parts = new Map<string, string>();
  const groups: AddedGroup[] = [];
  const hung = new Map<string, string | null>();
  const placed = new Map<string, TransformParts>();
  const bound = new Map<string, readonly string[]>();
  const indices = new Map(before.keys.map((key, i) => [key, i]));
  const insides = insidesOf(after.document);
  const joints = new Set(before.document.skins.flatMap((skin) => skin.joints));
  after.document.nodes.forEach((node, i) => {
    const key = after.keys[i];
    const parent = node.parent < 0 ? null : after.keys[node.parent];
    const index = indices.get(key);
    if (index === undefined) {
      if (node.mesh >= 0) missed.push(`${node.name} is made of other parts`);
      if (node.transform.matrix) missed.push(`${node.name} is sheared`);
      groups.push({ key, name: node.name, transform: node.transform });
      hung.set(key, parent);
      return;
    }
    const existing = before.document.nodes[index];
    if (before.document.meshes[existing.mesh] !== after.document.meshes[node.mesh])
      missed.push(`${node.name} has other points or faces`);
    if (node.collision) missed.push(`${node.name} has a shape for collision`);
    if (node.name !== existing.name) parts.set(key, node.name);
    if (parent !== (existing.parent < 0 ? null : before.keys[existing.parent])) hung.set(key, parent);
    if (!sameTransform(node.transform, existing.transform)) {
      placed.set(key, node.transform);
      if (node.transform.matrix) missed.push(`${node.name} is sheared`);
      if (joints.has(index)) missed.push(`${node.name} is a joint that stands elsewhere`);
      if (node.mesh >= 0 && insides(node.mesh).size > 1 && inside(node) !== inside(existing))
        missed.push(`${node.name} shares its points with a part that has them elsewhere`);
    }
    const stands = hung.has(key) || placed.has(key);
    if (stands && (isTurned(before.document, index) || isTurned(after.document, i)))
      missed.push(`${node.name} stands otherwise beside a camera or light`);
    const slots = materialKeys(after.document, node.materials);
    if (slots.join('\n') !== materialKeys(before.document, existing.materials).join('\n')) {
      bound.set(key, slots);
      if (new Set(slots).size < slots.length || slots.includes(''))
        missed.push(`${node.name} has one material in several slots`);
    }
  });
  return { parts, groups, hung, placed, bound };
}

/** Whether the file has the node another way round than the document, see `turnViews`. */
function isTurned({ nodes }: SceneDocument, index: number): boolean {
  const isView = (i: number) => i >= 0 && (nodes[i].camera >= 0 || nodes[i].light >= 0);
  return isView(index) || isView(nodes[index].parent);
}

/** Where a part has its points within itself. */
function inside({ transform }: Pick<SceneNode, 'transform'>): string {
  const { geometricTranslation, geometricRotation, geometricScale } = transform;
  return JSON.stringify([geometricTranslation, geometricRotation, geometricScale]);
}

/** The places in which parts of one mesh have its points; some readers know only one. */
function insidesOf({ nodes }: SceneDocument): (mesh: number) => ReadonlySet<string> {
  const places = once(() => {
    const byMesh = new Map<number, Set<string>>();
    for (const node of nodes)
      byMesh.set(node.mesh, (byMesh.get(node.mesh) ?? new Set<string>()).add(inside(node)));
    return byMesh;
  });
  return (mesh) => places().get(mesh) ?? new Set();
}

function sameTransform(a: TransformParts, b: TransformParts): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b);
}

function materialKeys({ materials }: SceneDocument, slots: readonly number[]): string[] {
  return slots.map((slot) => materials[slot]?.key ?? '');
}

/** Whether clips move what is left as they did. */
function sameMotion(before: Side, after: Side): boolean {
  const remaining = new Set(after.keys);
  const motionOf = ({ document, keys }: Side) =>
    document.clips.map(({ tracks }: Clip) => tracks.map((track) => ({ ...track, key: keys[track.node] })));
  const was = motionOf(before).map((tracks) => tracks.filter(({ key }) => remaining.has(key)));
  const is = motionOf(after);
  // A clip of which nothing is left goes.
  const left = was.filter((tracks, i) => tracks.length > 0 || before.document.clips[i].tracks.length === 0);
  return (
    is.length === left.length &&
    is.every(
      (tracks, i) =>
        tracks.length === left[i].length &&
        tracks.every(({ key, path, times, values }, k) => {
          const other = left[i][k];
          return key === other.key && path === other.path && times === other.times && values === other.values;
        }),
    )
  );
}
