import {
  BoxGeometry,
  BufferAttribute,
  CircleGeometry,
  DataTexture,
  DirectionalLight,
  Group,
  HalfFloatType,
  Mesh,
  MeshBasicMaterial,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  type Object3D,
  Scene,
  ShadowMaterial,
  Texture,
  Vector3,
} from 'three';
import { beforeEach, describe, expect, it } from 'vitest';
import type { ReadBaker } from './ReadBaker.ts';
import { tracedScene } from './tracedScene.ts';

/** A baker that only remembers what it was asked for. */
class Remembering {
  readonly asked: [string, Texture, unknown][] = [];

  bake(...asked: [string, Texture, unknown]): Texture {
    this.asked.push(asked);
    return Object.assign(new Texture(), { name: `baked ${asked[0]}` });
  }
}

const picture = (channel = 0) =>
  Object.assign(new Texture(), { image: { width: 4, height: 4 }, channel }) as Texture;

/** A buoy of two parts under a turned group, beside all that the view adds to it. */
function harbour() {
  const scene = new Scene();
  const group = new Group();
  group.position.set(0, 2, 0);
  group.scale.setScalar(3);
  const paint = new MeshPhysicalMaterial({ roughness: 0.4, bumpMap: picture(), aoMap: picture() });
  const hull = new Mesh(new BoxGeometry(), paint);
  hull.position.set(1, 0, 0);
  const cap = new Mesh(new BoxGeometry(), paint);
  const hidden = new Mesh(new BoxGeometry(), paint);
  hidden.visible = false;
  group.add(hull, cap, hidden, new Mesh(new BoxGeometry(), new MeshBasicMaterial()));
  const ground = new Mesh(new CircleGeometry(6), new ShadowMaterial());
  ground.position.set(0, -1, 0);
  const figure = new Mesh(new BoxGeometry(), new MeshStandardMaterial({ color: '#8c8a80', roughness: 0.95 }));
  const lamp = new DirectionalLight('#ffeedd', 2.5);
  lamp.position.set(3, 4, 0);
  lamp.target.position.set(0, 1, 0);
  scene.add(group, ground, figure, lamp, lamp.target);
  return { scene, paint, hull, lamp };
}

const meshesOf = (scene: Scene) =>
  scene.children.filter((child): child is Mesh<BoxGeometry, MeshPhysicalMaterial> => child instanceof Mesh);
const placeOf = (object: Object3D) => new Vector3().setFromMatrixPosition(object.matrixWorld).toArray();

describe('a scene for rays', () => {
  let baker: Remembering;
  beforeEach(() => {
    baker = new Remembering();
  });
  const traced = (scene: Scene, sky: Texture | null = null) =>
    tracedScene(scene, sky, baker as unknown as ReadBaker);

  it('has the parts that are seen where they stand, lamps and ground, and none of the marks', () => {
    const { scene } = harbour();
    const made = traced(scene);
    made.scene.updateMatrixWorld(true);
    expect(meshesOf(made.scene)).toHaveLength(3);
    const [hull, cap, figure] = meshesOf(made.scene);
    expect([placeOf(hull), placeOf(cap), placeOf(figure)]).toEqual([
      [3, 2, 0],
      [0, 2, 0],
      [0, 0, 0],
    ]);
    expect(hull.material).toBe(cap.material);
    expect([hull.material.roughness, figure.material.roughness]).toEqual([0.4, 0.95]);
    const lamp = made.scene.children.find((child) => child instanceof DirectionalLight) as DirectionalLight;
    expect(lamp.intensity).toBe(2.5);
    expect([placeOf(lamp), placeOf(lamp.target)]).toEqual([
      [3, 4, 0],
      [0, 1, 0],
    ]);
    made.ground?.updateMatrixWorld(true);
    expect(placeOf(made.ground as Mesh)).toEqual([0, -1, 0]);
    expect(made.ground?.parent).toBeNull();
  });

  it('reads pictures as the view reads them, each once; occlusion is left to the rays', () => {
    const { scene, paint } = harbour();
    const reads = { baseColor: { component: 'rgb' }, roughness: { component: 'b' } };
    paint.map = picture();
    paint.roughnessMap = picture();
    paint.userData.reads = reads;
    const { scene: made, untraced } = traced(scene);
    const [{ material }] = meshesOf(made);
    expect(baker.asked).toEqual([
      ['baseColor', paint.map, reads.baseColor],
      ['roughness', paint.roughnessMap, reads.roughness],
    ]);
    expect([material.map?.name, material.roughnessMap?.name]).toEqual(['baked baseColor', 'baked roughness']);
    expect([material.aoMap, material.bumpMap, material.metalnessMap]).toEqual([null, null, null]);
    expect([...untraced]).toEqual(['bumps']);
    expect(paint.bumpMap).not.toBeNull();
  });

  it('says what it does not show: heights, spec/gloss, pictures on a second UV set', () => {
    const { scene, paint } = harbour();
    Object.assign(paint, { bumpMap: null, displacementMap: picture(), ior: 1e6 });
    paint.map = picture(1);
    paint.roughnessMap = picture(0);
    paint.userData.reads = { baseColor: {}, roughness: {} };
    const { untraced } = traced(scene);
    expect([...untraced].sort()).toEqual(['heights', 'secondUvs', 'specGloss']);
    expect(baker.asked.map(([channel]) => channel)).toEqual(['baseColor']);
  });

  it('takes the UV set that the pictures lie on, as floats', () => {
    const { scene, paint, hull } = harbour();
    paint.map = picture(1);
    paint.userData.reads = { baseColor: {} };
    const { count } = hull.geometry.getAttribute('position');
    const bytes = Uint8Array.from({ length: count * 2 }, (_, i) => (i === 5 ? 255 : 0));
    hull.geometry.setAttribute('uv1', new BufferAttribute(bytes, 2, true));
    const [{ geometry }] = meshesOf(traced(scene).scene);
    const uv = geometry.getAttribute('uv').array;
    expect([uv[4], uv[5]]).toEqual([0, 1]);
    expect(uv).toBeInstanceOf(Float32Array);
    expect(Object.keys(geometry.attributes).sort()).toEqual(['normal', 'position', 'uv']);
    expect(Object.keys(hull.geometry.attributes)).toContain('uv1');
  });

  it('is lit by the sky where the view is, turned and as strong as there', () => {
    const { scene } = harbour();
    const sky = new DataTexture(new Uint16Array(8), 2, 1, undefined, HalfFloatType);
    expect(traced(scene, sky).scene.environment).toBeNull();
    scene.environment = new Texture();
    scene.environmentIntensity = 0.7;
    scene.environmentRotation.set(0, 1.2, 0);
    const { scene: made } = traced(scene, sky);
    expect(made.environment).toBe(sky);
    expect([made.environmentIntensity, made.environmentRotation.y]).toEqual([0.7, 1.2]);
  });
});
