import type { Accessor, Document, Node, Primitive, TextureInfo } from '@gltf-transform/core';
import type { Transform, Visibility } from '@gltf-transform/extensions';
import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three';
import type { Parcel } from '../fuzz/failures.ts';

/** Where a corner of a face stands, how its image is laid there, and which way it looks where a file says so. */
export interface Corner {
  place: Vector3;
  uv: readonly [number, number] | null;
  normal: Vector3 | null;
}

/** All faces of one colour, wherever in the model they hang: in metres, Y up, images from their upper left. */
export interface Paint {
  /** Sum of the faces' areas along their normals: which way they turn. */
  area: Vector3;
  corners: Corner[];
}

/** A model as anybody sees it: what is painted how. Colours are told apart by their numbers. */
export type Soup = Map<string, Paint>;

/** A made-up model, and what is in it as its maker knows. */
export interface Known extends Parcel {
  soup: Soup;
  /** The same at moments of its motion, in seconds; none where it stands still. */
  moments?: { second: number; soup: Soup }[];
}

const NEAR = 1e-3;
const MOST = 3;

export function paintOf(soup: Soup, colour: readonly number[]): Paint {
  const key = colour.map((value) => value.toFixed(3)).join(' ');
  const existing = soup.get(key);
  if (existing) return existing;
  const paint = { area: new Vector3(), corners: [] };
  soup.set(key, paint);
  return paint;
}

/** Adds a face to what is painted so. */
export function addFace(paint: Paint, face: readonly Corner[]): void {
  paint.corners.push(...face);
  for (let k = 1; k + 1 < face.length; k += 1) {
    const [one, two] = [face[k], face[k + 1]].map(({ place }) => place.clone().sub(face[0].place));
    paint.area.addScaledVector(one.cross(two), 0.5);
  }
}

/** What differs between a known model and a glTF, as another library reads it; nothing when all is there. */
export function soupWrong(known: Known, gltf: Document): string[] {
  if (!known.moments?.length) return differences(known.soup, soupOf(gltf));
  return known.moments.flatMap(({ second, soup }) => {
    poseAt(gltf, second);
    return differences(soup, soupOf(gltf)).map((words) => `at ${second} s, ${words}`);
  });
}

function differences(known: Soup, found: Soup): string[] {
  const size = Math.max(
    1e-9,
    ...[...known.values()].flatMap(({ corners }) => corners.map(({ place }) => place.length())),
  );
  const out: string[] = [];
  for (const key of new Set([...known.keys(), ...found.keys()])) {
    const [one, two] = [known.get(key), found.get(key)];
    if (!one || !two) out.push(`${key}: ${one ? 'is missing' : 'is too much'}`);
    else {
      const lost = one.corners.filter((corner) => !two.corners.some((found) => isSame(corner, found, size)));
      const fresh = two.corners.filter((corner) => !one.corners.some((known) => isSame(known, corner, size)));
      if (lost.length > 0)
        out.push(
          `${key}: of ${one.corners.length} ${lost.length} missing, ${told(lost[0])}; nearest ${told(nearest(lost[0], two.corners))}`,
        );
      if (fresh.length > 0)
        out.push(
          `${key}: of ${two.corners.length} ${fresh.length} not known, ${told(fresh[0])}; nearest ${told(nearest(fresh[0], one.corners))}`,
        );
      const off = one.area.distanceTo(two.area);
      if (off > 1e-3 * size * size)
        out.push(`${key}: area ${one.area.toArray()} became ${two.area.toArray()}`);
    }
  }
  return out.slice(0, MOST);
}

function nearest(corner: Corner, others: readonly Corner[]): Corner {
  const off = (other: Corner) =>
    other.place.distanceTo(corner.place) +
    (corner.uv && other.uv ? Math.hypot(corner.uv[0] - other.uv[0], corner.uv[1] - other.uv[1]) : 0);
  return others.reduce((best, other) => (off(other) < off(best) ? other : best));
}

function told({ place, uv, normal }: Corner): string {
  const round = (list: readonly number[]) => list.map((value) => Number(value.toFixed(4))).join(' ');
  return [round(place.toArray()), uv && `uv ${round(uv)}`, normal && `normal ${round(normal.toArray())}`]
    .filter(Boolean)
    .join(', ');
}

/** What is known must be found; where nothing is known of UVs or normals, whatever is found is as good. */
function isSame(known: Corner, found: Corner, size: number): boolean {
  const off = (a: readonly number[], b: readonly number[]) =>
    Math.hypot(...a.map((value, k) => value - b[k]));
  const { uv, normal } = found;
  return (
    known.place.distanceTo(found.place) < NEAR * size &&
    (!known.uv || (uv !== null && off(known.uv, uv) < 2e-3)) &&
    (!known.normal || (normal !== null && known.normal.distanceTo(normal) < 0.02))
  );
}

/** Moves the nodes of a glTF to where its first animation has them. */
export function poseAt(gltf: Document, second: number): void {
  for (const channel of gltf.getRoot().listAnimations()[0]?.listChannels() ?? []) {
    const [node, sampler, path] = [channel.getTargetNode(), channel.getSampler(), channel.getTargetPath()];
    const [times, values] = [sampler?.getInput()?.getArray(), sampler?.getOutput()];
    if (!node || !times || !values) continue;
    const after = [...times].findIndex((time) => time > second);
    const to = after < 0 ? times.length - 1 : after;
    const from = after < 0 ? to : Math.max(0, after - 1);
    const steps = sampler?.getInterpolation() === 'STEP' || from === to;
    const share = steps ? 0 : Math.max(0, (second - times[from]) / (times[to] - times[from]));
    if (sampler?.getInterpolation() === 'CUBICSPLINE') throw new Error('curves are not known here');
    const [a, b] = [from, to].map((at) => rowOf(values, at, times.length));
    if (path === 'weights') node.setWeights(a.map((component, k) => component + (b[k] - component) * share));
    else if (path === 'rotation')
      node.setRotation(new Quaternion(...a).slerp(new Quaternion(...b), share).toArray() as Turn);
    else {
      const value = a.map((component, k) => component + (b[k] - component) * share) as [
        number,
        number,
        number,
      ];
      if (path === 'translation') node.setTranslation(value);
      else node.setScale(value);
    }
  }
}

type Turn = [number, number, number, number];

/** What a sampler has at a key: one element, or, of weights, as many as there are targets. */
function rowOf(values: Accessor, key: number, keys: number): number[] {
  const wide = values.getCount() / keys;
  return Array.from({ length: wide }, (_, k) => values.getElement(key * wide + k, [])).flat();
}

/** A glTF as another library reads it; UVs are those of the image of light that each material has. */
function soupOf(gltf: Document): Soup {
  const soup: Soup = new Map();
  const scene = gltf.getRoot().getDefaultScene() ?? gltf.getRoot().listScenes()[0];
  scene.traverse((node) => {
    if (isHidden(node)) return;
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) addPrimitive(soup, node, primitive);
  });
  return soup;
}

function isHidden(node: Node): boolean {
  const parent = node.getParentNode();
  return (
    node.getExtension<Visibility>('KHR_node_visibility')?.getVisible() === false ||
    (parent !== null && isHidden(parent))
  );
}

function addPrimitive(soup: Soup, node: Node, primitive: Primitive): void {
  const material = primitive.getMaterial();
  const paint = paintOf(soup, material ? material.getBaseColorFactor().slice(0, 3) : []);
  const world = new Matrix4().fromArray(node.getWorldMatrix());
  const turned = new Matrix3().getNormalMatrix(world);
  const places = primitive.getAttribute('POSITION');
  const normals = primitive.getAttribute('NORMAL');
  const info = material?.getEmissiveTexture() ? material.getEmissiveTextureInfo() : null;
  const uvs = info ? primitive.getAttribute(`TEXCOORD_${info.getTexCoord()}`) : null;
  const order: ArrayLike<number> =
    primitive.getIndices()?.getArray() ?? Array.from({ length: places?.getCount() ?? 0 }, (_, i) => i);
  const moved = movedBy(node, primitive, world);
  const corners = Array.from(
    order,
    (index): Corner => ({
      place: moved(index, new Vector3(...(places?.getElement(index, []) ?? []))),
      uv: uvs && info ? laid(uvs.getElement(index, []), info) : null,
      normal: normals ? new Vector3(...normals.getElement(index, [])).applyMatrix3(turned).normalize() : null,
    }),
  );
  const mirrored = world.determinant() < 0;
  for (let k = 0; k < corners.length; k += 3) {
    const face = corners.slice(k, k + 3);
    addFace(paint, mirrored ? face.reverse() : face);
  }
}

/** How points of a primitive come to stand where they are: by its targets, its joints, or its node. */
function movedBy(
  node: Node,
  primitive: Primitive,
  world: Matrix4,
): (index: number, place: Vector3) => Vector3 {
  const own = node.getWeights();
  const weights = own.length > 0 ? own : (node.getMesh()?.getWeights() ?? []);
  const offsets = primitive.listTargets().map((target) => target.getAttribute('POSITION'));
  const skin = node.getSkin();
  const inverse = skin?.getInverseBindMatrices();
  const joints = skin?.listJoints().map((joint, i) => {
    const at = new Matrix4().fromArray(joint.getWorldMatrix());
    return inverse ? at.multiply(new Matrix4().fromArray(inverse.getElement(i, []))) : at;
  });
  const [names, shares] = ['JOINTS_0', 'WEIGHTS_0'].map((name) => primitive.getAttribute(name));
  return (index, place) => {
    offsets.forEach((offset, i) => {
      if (offset) place.addScaledVector(new Vector3(...offset.getElement(index, [])), weights[i] ?? 0);
    });
    if (!joints || !names || !shares) return place.applyMatrix4(world);
    const out = new Vector3();
    const by = shares.getElement(index, []);
    names.getElement(index, []).forEach((joint, k) => {
      if (by[k] > 0) out.addScaledVector(place.clone().applyMatrix4(joints[joint]), by[k]);
    });
    return out;
  };
}

/** Where a texture is read, by KHR_texture_transform: scaled, turned, moved. */
export function laid([u, v]: number[], info: TextureInfo): [number, number] {
  const transform = info.getExtension<Transform>('KHR_texture_transform');
  if (!transform) return [u, v];
  const [x, y] = transform.getOffset();
  const [right, down] = transform.getScale();
  const angle = transform.getRotation();
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return [c * right * u + s * down * v + x, -s * right * u + c * down * v + y];
}
