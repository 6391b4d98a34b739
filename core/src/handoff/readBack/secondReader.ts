import { createHash } from 'node:crypto';
import {
  Box3,
  type BufferGeometry,
  Euler,
  type EulerOrder,
  type Group,
  ImageLoader,
  LoadingManager,
  type Material,
  MathUtils,
  type Mesh,
  type Object3D,
  Quaternion,
  Texture,
  Vector3,
} from 'three';
import { FBXLoader } from 'three/addons/loaders/FBXLoader.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { MTLLoader } from 'three/addons/loaders/MTLLoader.js';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';
import { USDLoader } from 'three/addons/loaders/USDLoader.js';
import { fileName, folderOf } from '../../parcel/fileSource.ts';
import type { SceneDocument } from '../../scene/document.ts';
import type { PackageFiles } from '../write/writeGltf.ts';

/** What a reader that is not ours sees of a model. */
export interface Seen {
  triangles: number;
  min: number[];
  max: number[];
}

/** A material as that reader has it. */
export interface SeenMaterial {
  /** '' where the reader keeps no names, or for faces without a material. */
  name: string;
  triangles: number;
  /** u, v of each corner of its faces, in the file's own direction of v. */
  uvs: number[];
  /** Content of the image in each slot, see {@link contentOf}. */
  slots: Record<string, string>;
}

/** A model with its materials, as another reader has it. */
export interface SeenModel extends Seen {
  materials: SeenMaterial[];
}

const SLOTS = [
  'map',
  'normalMap',
  'bumpMap',
  'displacementMap',
  'specularMap',
  'emissiveMap',
  'alphaMap',
  'roughnessMap',
  'metalnessMap',
  'aoMap',
] as const;
/** One of {@link SLOTS}. */
export type Slot = (typeof SLOTS)[number];

const element = () => ({ addEventListener() {}, removeEventListener() {}, setAttribute() {}, style: {} });
/** What three's loaders look for of a page. */
const PAGE: Record<string, unknown> = {
  window: globalThis,
  self: globalThis,
  document: { createElementNS: element, createElement: element },
  ProgressEvent: Event,
};
const pretended = { readers: 0, names: [] as string[] };

/**
 * three's loaders look for a page; they read models without one. It is there while something is read, and
 * gone with the last reader.
 */
export async function onPretendedPage<T>(work: () => T | Promise<T>): Promise<T> {
  const world = globalThis as Record<string, unknown>;
  if (pretended.readers === 0) {
    pretended.names = Object.keys(PAGE).filter((name) => world[name] === undefined);
    for (const name of pretended.names) world[name] = PAGE[name];
  }
  pretended.readers += 1;
  try {
    return await work();
  } finally {
    pretended.readers -= 1;
    if (pretended.readers === 0) for (const name of pretended.names) delete world[name];
  }
}

/**
 * Reads a model with three's loaders, images left alone: triangles as placed, bounds in world space as three
 * sets it up.
 */
export function threeSees(kind: 'fbx' | 'obj' | 'usd', bytes: Uint8Array): Promise<Seen> {
  return onPretendedPage(() => seenOf(parse(kind, bytes, new Map(), '').root));
}

/** Reads a model of a package as somebody else does, with its materials and what lies in their slots. */
export async function threeOpens(
  files: PackageFiles,
  model: string,
  format: SceneDocument['format'],
): Promise<SeenModel> {
  const bytes = files.get(model) as Uint8Array;
  const { root, inside } = await onPretendedPage(() =>
    format === 'gltf' ? parseGltf(bytes, files, model) : parse(format, bytes, files, model),
  );
  return { ...seenOf(root), materials: await materialsOf(root, { files, model, inside }) };
}

interface Parsed {
  root: Object3D;
  /** Images that the model carries inside, by the address that the reader made for them. */
  inside: ReadonlyMap<string, Blob>;
}

/** Where images may be found. */
interface Places {
  files: PackageFiles;
  model: string;
  inside: ReadonlyMap<string, Blob>;
}

function parse(kind: 'fbx' | 'obj' | 'usd', bytes: Uint8Array, files: PackageFiles, model: string): Parsed {
  const buffer = new Uint8Array(bytes).buffer;
  // Images are never waited for.
  const manager = new LoadingManager();
  return withoutImages(() => {
    if (kind === 'fbx') return withOwnTurn(new FBXLoader(manager).parse(buffer, ''));
    if (kind === 'usd') return new USDLoader(manager).parse(buffer);
    const text = new TextDecoder().decode(bytes);
    const loader = new OBJLoader(manager);
    const library = files.get(beside(model, /^mtllib (.+)$/m.exec(text)?.[1]?.trim() ?? ''));
    if (library) loader.setMaterials(new MTLLoader(manager).parse(new TextDecoder().decode(library), ''));
    return loader.parse(text);
  });
}

/** What three keeps of a model's transform in FBX, in degrees. */
interface KeptTransform {
  rotation?: number[];
  preRotation?: number[];
  postRotation?: number[];
  eulerOrder?: EulerOrder;
}

/**
 * Of a file with Z up and one uppermost part, three has the turn of the axes in place of the part's own, which
 * is given back here.
 */
function withOwnTurn(root: Group): Group {
  const { transformData } = root.userData as { transformData?: KeptTransform };
  if (!transformData) return root;
  const { rotation, preRotation, postRotation, eulerOrder = 'ZYX' } = transformData;
  const turn = ([x, y, z]: readonly number[] = [0, 0, 0], order: EulerOrder = 'ZYX') =>
    new Quaternion().setFromEuler(
      new Euler(MathUtils.degToRad(x), MathUtils.degToRad(y), MathUtils.degToRad(z), order),
    );
  const own = turn(preRotation).multiply(turn(rotation, eulerOrder)).multiply(turn(postRotation).invert());
  // Where the file has Y up what is there is its own, though a mirrored one is said by another turn.
  const isNear = (other: Quaternion) => root.quaternion.angleTo(other) < 1e-6;
  if (isNear(turn([-90, 0, 0])) && !isNear(own)) root.quaternion.multiply(own);
  return root;
}

async function parseGltf(bytes: Uint8Array, files: PackageFiles, model: string): Promise<Parsed> {
  const loader = new GLTFLoader(new LoadingManager());
  loader.register((parser) => ({
    name: 'images as bytes',
    async loadTexture(index: number) {
      const { textures = [], images = [] } = parser.json as {
        textures?: { source: number }[];
        images?: { uri?: string; bufferView?: number }[];
      };
      const image = images[textures[index].source];
      const inside =
        image.bufferView === undefined
          ? null
          : ((await parser.getDependency('bufferView', image.bufferView)) as ArrayBuffer);
      return pictured(inside ? { content: contentOf(new Uint8Array(inside)) } : { url: image.uri ?? '' });
    },
  }));
  const content = model.endsWith('.gltf') ? withBuffers(bytes, files, model) : new Uint8Array(bytes).buffer;
  const { scene } = await loader.parseAsync(content, '');
  return { root: scene, inside: new Map() };
}

/** A `.gltf` with its buffers written out in it, since that loader would ask a server for them. */
function withBuffers(bytes: Uint8Array, files: PackageFiles, model: string): string {
  const json = JSON.parse(new TextDecoder().decode(bytes)) as { buffers?: { uri?: string }[] };
  for (const buffer of json.buffers ?? []) {
    const content = files.get(beside(model, decodeURIComponent(buffer.uri ?? '')));
    if (content)
      buffer.uri = `data:application/octet-stream;base64,${Buffer.from(content).toString('base64')}`;
  }
  return JSON.stringify(json);
}

/** Where a texture's picture would be taken from; the loader copies it as JSON where it clones a texture. */
interface Picture {
  url?: string;
  content?: string;
}

function pictured(picture: Picture): Texture {
  const texture = new Texture();
  texture.userData.picture = picture;
  return texture;
}

/**
 * The loaders name images, but load none here, and tell of every texture that they have no use for; the
 * numbers are all that matters.
 */
function withoutImages(work: () => Object3D): Parsed {
  const { warn } = console;
  const { load } = ImageLoader.prototype;
  const { createObjectURL } = URL;
  const inside = new Map<string, Blob>();
  console.warn = () => {};
  URL.createObjectURL = (blob) => {
    const url = `inside:${inside.size}`;
    inside.set(url, blob as Blob);
    return url;
  };
  ImageLoader.prototype.load = function named(url, onLoad) {
    const image = { url, width: 1, height: 1 } as unknown as ReturnType<typeof load>;
    onLoad?.(image);
    return image;
  };
  try {
    return { root: work(), inside };
  } finally {
    console.warn = warn;
    ImageLoader.prototype.load = load;
    URL.createObjectURL = createObjectURL;
  }
}

/** Triangles and bounds of what a reader loaded, as it lies before any joint bends it. */
export function seenOf(root: Object3D): Seen {
  root.updateMatrixWorld(true);
  let triangles = 0;
  const box = new Box3();
  root.traverse((object) => {
    const mesh = object as Mesh;
    if (!mesh.isMesh) return;
    const corners = cornersOf(mesh.geometry);
    triangles += corners.count / 3;
    // As the mesh lies, before any joint bends it: skins are compared elsewhere.
    const place = new Vector3();
    const points = mesh.geometry.getAttribute('position');
    const shown = new Uint8Array(points.count).fill(mesh.geometry.index ? 0 : 1);
    for (const point of mesh.geometry.index?.array ?? []) shown[point] = 1;
    for (let i = 0; i < points.count; i += 1)
      if (shown[i] !== 0 && isPlace(points, i))
        box.expandByPoint(place.fromBufferAttribute(points, i).applyMatrix4(mesh.matrixWorld));
  });
  return { triangles, min: box.min.toArray(), max: box.max.toArray() };
}

/** The corners of a geometry that are somewhere: of polygons that it cannot cut the reader makes some that are not. */
function cornersOf({ index, attributes }: BufferGeometry) {
  const points = attributes.position;
  const all = index?.count ?? points.count;
  const pointOf = (corner: number) => (index ? index.getX(corner) : corner);
  let lost = 0;
  for (let corner = 0; corner < all; corner += 1) if (!isPlace(points, pointOf(corner))) lost += 1;
  return {
    count: all - lost,
    has: (corner: number) => lost === 0 || isPlace(points, pointOf(corner)),
    pointOf,
  };
}

function isPlace(points: BufferGeometry['attributes'][string], i: number): boolean {
  const sum = points.getX(i) + points.getY(i) + points.getZ(i);
  return sum - sum === 0;
}

/** Each material object once, with the faces that carry it. */
async function materialsOf(root: Object3D, places: Places): Promise<SeenMaterial[]> {
  const seenMaterials = new Map<Material, SeenMaterial>();
  root.traverse((object) => {
    const mesh = object as Mesh;
    if (!mesh.isMesh) return;
    const { geometry } = mesh;
    const list = Array.isArray(mesh.material) ? mesh.material : [mesh.material];
    const count = geometry.index?.count ?? geometry.getAttribute('position').count;
    const groups =
      geometry.groups.length > 0 && list.length > 1
        ? geometry.groups
        : [{ start: 0, count, materialIndex: 0 }];
    const uv = geometry.getAttribute('uv');
    const corners = cornersOf(geometry);
    for (const { start, count: length, materialIndex = 0 } of groups) {
      const material = list[materialIndex];
      if (!material) continue;
      let ownSeenMaterial = seenMaterials.get(material);
      if (!ownSeenMaterial) {
        ownSeenMaterial = {
          name: material.name.replace(/^__DEFAULT$/, ''),
          triangles: 0,
          uvs: [],
          slots: {},
        };
        seenMaterials.set(material, ownSeenMaterial);
      }
      for (let i = start; i < start + length; i += 1) {
        if (!corners.has(i)) continue;
        ownSeenMaterial.triangles += 1 / 3;
        if (uv) ownSeenMaterial.uvs.push(uv.getX(corners.pointOf(i)), uv.getY(corners.pointOf(i)));
      }
      ownSeenMaterial.triangles = Math.round(ownSeenMaterial.triangles);
    }
  });
  for (const [material, ownSeenMaterial] of seenMaterials)
    ownSeenMaterial.slots = await slotsOf(material, places);
  return [...seenMaterials.values()];
}

async function slotsOf(material: Material, places: Places): Promise<Record<string, string>> {
  const out: Record<string, string> = {};
  for (const slot of SLOTS) {
    const texture = (material as unknown as Record<string, Texture | null | undefined>)[slot];
    if (texture) out[slot] = await pictureOf(texture, places);
  }
  return out;
}

async function pictureOf(texture: Texture, { files, model, inside }: Places): Promise<string> {
  const picture = (texture.userData.picture ?? texture.image ?? {}) as Picture;
  if (picture.content) return picture.content;
  const url = picture.url ?? '';
  const blob = inside.get(url);
  if (blob) return contentOf(new Uint8Array(await blob.arrayBuffer()));
  const inline = /^data:[^,]*;base64,(.*)$/s.exec(url);
  if (inline) return contentOf(new Uint8Array(Buffer.from(inline[1], 'base64')));
  const path = decodeURIComponent(url.replaceAll('\\', '/'));
  const bytes =
    files.get(beside(model, path)) ?? [...files].find(([name]) => fileName(name) === fileName(path))?.[1];
  return bytes ? contentOf(bytes) : fileName(path);
}

function beside(model: string, path: string): string {
  const folder = folderOf(model);
  return folder === '' ? path.replace(/^\.\//, '') : `${folder}/${path.replace(/^\.\//, '')}`;
}

/** The same for the same bytes. */
export function contentOf(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex').slice(0, 16);
}
