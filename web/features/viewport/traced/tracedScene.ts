import {
  BufferAttribute,
  type BufferGeometry,
  DirectionalLight,
  Mesh,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  type Object3D,
  Scene,
  ShadowMaterial,
  type Texture,
} from 'three';
import type { Reads } from '../shaderReads.ts';
import type { ReadBaker } from './ReadBaker.ts';

/** Where a material of three holds the picture of each channel that rays can follow. */
const SLOTS = {
  baseColor: 'map',
  roughness: 'roughnessMap',
  metalness: 'metalnessMap',
  normal: 'normalMap',
  opacity: 'alphaMap',
  emission: 'emissiveMap',
  sheenColor: 'sheenColorMap',
  specularColor: 'specularColorMap',
  specular: 'specularIntensityMap',
  coat: 'clearcoatMap',
  coatRoughness: 'clearcoatRoughnessMap',
  transmission: 'transmissionMap',
} as const satisfies Record<string, keyof MeshPhysicalMaterial>;

/** What rays do not show as the view does. */
export type Untraced = 'heights' | 'bumps' | 'secondUvs' | 'specGloss' | 'colours';

/** A scene for rays, with what it leaves out. */
export interface TracedScene {
  scene: Scene;
  /** White ground to catch shadows, which is not in the scene yet; null where the view has none. */
  ground: Mesh | null;
  untraced: ReadonlySet<Untraced>;
  dispose(): void;
}

/**
 * What the view shows, put for rays: parts with the materials that they carry, lamps, and the surroundings.
 * Marks and tints stay behind.
 */
export function tracedScene(shown: Scene, sky: Texture | null, baker: ReadBaker): TracedScene {
  const scene = new Scene();
  const untraced = new Set<Untraced>();
  const materials = new Map<MeshStandardMaterial, TracedMaterial>();
  const geometries: BufferGeometry[] = [];
  let ground: Mesh | null = null;
  shown.updateMatrixWorld(true);
  shown.traverseVisible((object) => {
    if (object instanceof DirectionalLight) scene.add(...lampLike(object));
    else if (object instanceof Mesh && object.material instanceof ShadowMaterial) ground = groundLike(object);
    else if (isPart(object)) {
      const own = object.material as MeshStandardMaterial;
      const material = materials.get(own) ?? tracedMaterial(own, baker, untraced);
      materials.set(own, material);
      const geometry = tracedGeometry(object.geometry, material.uvSet);
      geometries.push(geometry);
      scene.add(placedLike(object, new Mesh(geometry, material.material)));
    }
  });
  if (shown.environment) scene.environment = sky;
  scene.environmentIntensity = shown.environmentIntensity;
  scene.environmentRotation.copy(shown.environmentRotation);
  return {
    scene,
    ground,
    untraced,
    dispose() {
      ground?.geometry.dispose();
      for (const geometry of geometries) geometry.dispose();
      for (const { material } of materials.values()) material.dispose();
    },
  };
}

function isPart(object: Object3D): object is Mesh {
  return (
    object instanceof Mesh &&
    object.material instanceof MeshStandardMaterial &&
    object.geometry.getAttribute('position')?.count > 0
  );
}

function placedLike<T extends Object3D>(shown: Object3D, own: T): T {
  own.matrixAutoUpdate = false;
  own.matrix.copy(shown.matrixWorld);
  return own;
}

function lampLike(lamp: DirectionalLight): Object3D[] {
  const own = new DirectionalLight(lamp.color, lamp.intensity);
  return [placedLike(lamp, own), placedLike(lamp.target, own.target)];
}

function groundLike(shown: Mesh): Mesh {
  const material = new MeshPhysicalMaterial({ roughness: 1, specularIntensity: 0 });
  return placedLike(shown, new Mesh(tracedGeometry(shown.geometry, 0), material));
}

interface TracedMaterial {
  material: MeshPhysicalMaterial;
  /** The only UV set that its pictures lie on. */
  uvSet: number;
}

function tracedMaterial(
  shown: MeshStandardMaterial,
  baker: ReadBaker,
  untraced: Set<Untraced>,
): TracedMaterial {
  const own = new MeshPhysicalMaterial();
  if (!(shown instanceof MeshPhysicalMaterial)) {
    own.color.copy(shown.color);
    own.roughness = shown.roughness;
    return { material: own, uvSet: 0 };
  }
  own.copy(shown);
  own.userData = {};
  Object.assign(own, { aoMap: null, bumpMap: null, displacementMap: null, vertexColors: false });
  if (shown.vertexColors) untraced.add('colours');
  if (shown.displacementMap) untraced.add('heights');
  if (shown.bumpMap) untraced.add('bumps');
  if (shown.ior > 1e5) untraced.add('specGloss');
  const reads = (shown.userData.reads ?? {}) as Reads;
  const maps = Object.entries(SLOTS).flatMap(([channel, slot]) => {
    const texture = shown[slot];
    return texture && reads[channel] ? [{ channel, slot, texture }] : [];
  });
  const uvSet = maps[0]?.texture.channel ?? 0;
  for (const slot of Object.values(SLOTS)) own[slot] = null;
  for (const { channel, slot, texture } of maps) {
    if (texture.channel !== uvSet) untraced.add('secondUvs');
    else if (texture.image) own[slot] = baker.bake(channel, texture, reads[channel]);
  }
  return { material: own, uvSet };
}

/** Places, normals and one UV set: what all parts have alike. */
function tracedGeometry(shown: BufferGeometry, uvSet: number): BufferGeometry {
  const own = shown.clone();
  own.clearGroups();
  own.morphAttributes = {};
  const uv = shown.getAttribute(uvSet === 0 ? 'uv' : `uv${uvSet}`);
  for (const name of Object.keys(own.attributes))
    if (name !== 'position' && name !== 'normal') own.deleteAttribute(name);
  if (!own.getAttribute('normal')) own.computeVertexNormals();
  for (const name of ['position', 'normal'] as const)
    own.setAttribute(name, asFloats(own.getAttribute(name) as BufferAttribute, 3));
  const count = own.getAttribute('position').count;
  own.setAttribute(
    'uv',
    uv ? asFloats(uv as BufferAttribute, 2) : new BufferAttribute(new Float32Array(count * 2), 2),
  );
  return own;
}

function asFloats(attribute: BufferAttribute, size: 2 | 3): BufferAttribute {
  const out = new Float32Array(attribute.count * size);
  for (let i = 0; i < attribute.count; i += 1)
    for (let k = 0; k < size; k += 1) out[i * size + k] = attribute.getComponent(i, k);
  return new BufferAttribute(out, size);
}
