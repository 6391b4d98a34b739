import {
  createNode,
  type Light,
  type SceneDocument,
  type SceneNode,
  type Skin,
  type Track,
  type Vec3,
} from './document.ts';
import { axesUnderstood, extraMatrix, type IntakeChoice } from './intake.ts';
import { assignKeys, type ImageEntry, withImageKeys } from './material.ts';
import {
  invertAffine,
  type Matrix4,
  multiply,
  partsOfMatrix,
  rotation,
  scaling,
  toYUpMetres,
  translation,
} from './matrix.ts';
import { reorient } from './reorient.ts';

/** Where a model is put: its origin in metres, a turn about the upright axis in degrees, times its size. */
export interface Placement {
  at: Vec3;
  turn: number;
  scale: number;
}

/** A document that joins another one, and where it stands there. */
export interface Joining extends Placement {
  document: SceneDocument;
  /** Of the group that is made for its parts. */
  name: string;
  /** How the document that it is joined to was understood when it was placed. */
  intake: IntakeChoice;
}

/**
 * Further models in a document, each under a group of its own. Units and axes are the document's; its own
 * nodes, materials and images stay the first, so that their keys hold. Names that are taken get the group's
 * before them. Nothing that is given is changed.
 */
export function joinDocuments(base: SceneDocument, joinings: readonly Joining[]): SceneDocument {
  const joined = joinings.reduce(append, base);
  const materials = joined.materials.map((material) => ({ ...material }));
  assignKeys(materials);
  return { ...joined, materials };
}

function append(base: SceneDocument, joining: Joining): SceneDocument {
  const { axes, metresPerUnit } = axesUnderstood(base, joining.intake);
  const further = reorient(joining.document, axes, metresPerUnit);
  const first = base.nodes.length + 1;
  const shift = {
    mesh: base.meshes.length,
    material: base.materials.length,
    camera: base.cameras.length,
    light: base.lights.length,
  };
  const skin = base.skins.length;
  const from = further.nodes.map(
    (node): SceneNode => ({
      ...moved(node, shift),
      parent: node.parent < 0 ? first - 1 : node.parent + first,
      skin: later(node.skin, skin),
    }),
  );
  const group = createNode(freeName(joining.name, base.nodes), 'group', -1, {
    transform: partsOfMatrix(placementIn(joining, toYUpMetres(axes, metresPerUnit))),
  });
  const { images, keys } = withKeysOfTheirOwn(further.images, base.images, joining.name);
  return {
    ...base,
    nodes: [...base.nodes, group, ...from],
    meshes: [...base.meshes, ...further.meshes],
    materials: [
      ...base.materials,
      ...namedApart(further.materials, base.materials, joining.name).map((material) =>
        withImageKeys(material, keys),
      ),
    ],
    images: [...base.images, ...images],
    cameras: [...base.cameras, ...further.cameras],
    lights: [...base.lights, ...withSkyKeys(further.lights, keys)],
    skins: [
      ...base.skins,
      ...further.skins.map((skin): Skin => ({ ...skin, joints: skin.joints.map((joint) => joint + first) })),
    ],
    clips: [
      ...base.clips,
      ...namedApart(further.clips, base.clips, joining.name).map((clip) => ({
        ...clip,
        tracks: clip.tracks.map((track): Track => ({ ...track, node: track.node + first })),
      })),
    ],
    remarks: [...base.remarks, ...further.remarks],
  };
}

/** What stands so in Y-up metres, as a matrix between the numbers of the document. */
function placementIn({ at, turn, scale, intake }: Joining, into: Matrix4): Matrix4 {
  const place = multiply(translation(at), multiply(rotation([0, turn, 0]), scaling([scale, scale, scale])));
  return multiply(invertAffine(into), multiply(multiply(invertAffine(extraMatrix(intake)), place), into));
}

function moved(node: SceneNode, shift: Record<'mesh' | 'material' | 'camera' | 'light', number>): SceneNode {
  return {
    ...node,
    mesh: later(node.mesh, shift.mesh),
    materials: node.materials.map((slot) => later(slot, shift.material)),
    camera: later(node.camera, shift.camera),
    light: later(node.light, shift.light),
  };
}

function later(index: number, by: number): number {
  return index < 0 ? index : index + by;
}

/** Images of one key would be one image: those whose key is taken by another content get one of their own. */
function withKeysOfTheirOwn(images: readonly ImageEntry[], others: readonly ImageEntry[], name: string) {
  const taken = new Map(others.map((image) => [image.key, image]));
  const keys = new Map<string, string>();
  const keptImageEntries: ImageEntry[] = [];
  for (const image of images) {
    const other = taken.get(image.key);
    if (
      other &&
      other.embedded === null &&
      image.embedded === null &&
      other.written === image.written &&
      other.relative === image.relative
    )
      continue;
    const key = other ? freeKey(`${name}/${image.key}`, taken) : image.key;
    if (key !== image.key) keys.set(image.key, key);
    keptImageEntries.push({ ...image, key });
    taken.set(key, image);
  }
  return { images: keptImageEntries, keys };
}

/** Lights whose domes show images under other keys. */
export function withSkyKeys(lights: readonly Light[], keys: ReadonlyMap<string, string>): Light[] {
  return lights.map((light) =>
    light.sky
      ? { ...light, sky: { ...light.sky, image: keys.get(light.sky.image) ?? light.sky.image } }
      : light,
  );
}

function namedApart<T extends { name: string }>(
  items: readonly T[],
  others: readonly T[],
  name: string,
): T[] {
  const taken = new Set(others.map((other) => other.name));
  return items.map((item) =>
    taken.has(item.name) ? { ...item, name: freeKey(`${name}_${item.name}`, taken) } : item,
  );
}

function freeName(name: string, nodes: readonly SceneNode[]): string {
  return freeKey(name, new Set(nodes.map((node) => node.name)));
}

function freeKey(key: string, taken: { has(key: string): boolean }): string {
  let free = key;
  for (let i = 2; taken.has(free); i += 1) free = `${key}_${i}`;
  return free;
}
