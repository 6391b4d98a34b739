'use client';

import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, useState } from 'react';
import {
  Box3,
  type BufferGeometry,
  type Group,
  Matrix4,
  Mesh,
  type MeshPhysicalMaterial,
  type MeshStandardMaterial,
  type Object3D,
  type PerspectiveCamera,
  Raycaster,
  Sphere,
  Vector2,
  Vector3,
} from 'three';
import { heightOf } from '@kinkajou/core/materials/height';
import { NODE_KEY } from '@kinkajou/core/preview/nodeKey';
import type { Material as NeutralMaterial } from '@kinkajou/core/scene/material';
import { type IntakeChoice, intakeMatrix } from '@kinkajou/core/scene/intake';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { toast } from 'sonner';
import { blobUrl } from '@/ui/api';
import { useChoices } from '@/ui/choices';
import { useBench } from '../bench/useBench.ts';
import { useExponentPreview, withPreview } from '../colour/exponentPreview.ts';
import { middleDensity, useDensity } from './density.ts';
import { tearOf, tessellated } from './displace.ts';
import { type CameraPreset, onFrameAll, onPreset } from './frame.ts';
import { Lamps } from './Lamps.tsx';
import { createViewMaterial, isDisplaced, lookOf, type MaterialContext, type ViewMaterial } from './materials.ts';
import { providePick } from './pick.ts';
import { useTear } from './tear.ts';
import { TextureStore } from './textures.ts';

/** Picture height in millimetres that focal lengths are for. */
const FRAME_HEIGHT = 24;

/** The asset's geometry with the materials of its current state, its lamps and the ground under it. */
export function AssetModel() {
  const { view } = useBench();
  const model = useGeometry(view.geometry);
  const { mode, wireframe, lamps, ground, turn } = useChoices((choices) => choices.view);
  const { invalidate } = useThree();
  const { intake } = view.state;
  const { upAxis, metresPerUnit } = view.source;
  const placement = useMemo(() => placementOf(intake, upAxis, metresPerUnit), [intake, upAxis, metresPerUnit]);
  const bounds = useMemo(() => (model ? boundsUnder(model, placement) : null), [model, placement]);
  const sphere = useMemo(() => bounds?.getBoundingSphere(new Sphere()) ?? null, [bounds]);
  useMaterials(model);
  usePick(model);
  useCamera(sphere);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever shows differently asks for a new frame
  useEffect(() => invalidate(), [model, placement, intake, mode, wireframe, lamps, ground, turn, invalidate]);
  if (!model || !bounds || !sphere || bounds.isEmpty()) return null;
  const size = sphere.radius;
  const lit = mode === 'lit';
  return (
    <>
      <group matrixAutoUpdate={false} matrix={placement} visible={intake.parts.includes('meshes')}>
        <primitive object={model} />
      </group>
      {lit && <Lamps centre={sphere.center} size={size} />}
      {lit && ground && (
        <mesh rotation-x={-Math.PI / 2} position={[sphere.center.x, bounds.min.y - size * 0.002, sphere.center.z]} receiveShadow>
          <circleGeometry args={[size * 6, 64]} />
          <shadowMaterial opacity={0.32} transparent />
        </mesh>
      )}
    </>
  );
}

/** The geometry is kept as the file states it; a choice at intake moves it as a whole. */
function placementOf(intake: IntakeChoice, upAxis: 'X' | 'Y' | 'Z', metresPerUnit: number): Matrix4 {
  return new Matrix4().fromArray([...intakeMatrix(intake, upAxis, metresPerUnit)]);
}

function boundsUnder(model: Group, placement: Matrix4): Box3 {
  const box = new Box3();
  const part = new Box3();
  model.updateMatrixWorld(true);
  const seat = model.parent ? model.parent.matrixWorld.clone().invert() : new Matrix4();
  model.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    if (!object.geometry.boundingBox) object.geometry.computeBoundingBox();
    if (object.geometry.boundingBox)
      box.union(
        part
          .copy(object.geometry.boundingBox)
          .applyMatrix4(new Matrix4().multiplyMatrices(placement, new Matrix4().multiplyMatrices(seat, object.matrixWorld))),
      );
  });
  return box;
}

function useGeometry(hash: string): Group | null {
  const [model, setModel] = useState<Group | null>(null);
  useEffect(() => {
    let current = true;
    new GLTFLoader()
      .loadAsync(blobUrl(hash))
      .then(({ scene }) => {
        if (!current) return;
        scene.traverse((object) => {
          if (object instanceof Mesh) object.castShadow = object.receiveShadow = true;
        });
        setModel(scene);
      })
      .catch((error: Error) => toast.error(`The geometry cannot be shown: ${error.message}`));
    return () => {
      current = false;
    };
  }, [hash]);
  useEffect(
    () => () =>
      model?.traverse((object) => {
        if (object instanceof Mesh) object.geometry.dispose();
      }),
    [model],
  );
  return model;
}

/**
 * Gives each part the material of the current state. A material whose look an edit does not touch stays as it is, so
 * that its shader is not built again; one that is no longer used is freed only after the next picture, since a new one
 * may share its program.
 */
function useMaterials(model: Group | null): void {
  const { view } = useBench();
  const { mode, uvSet, wireframe, displaced } = useChoices((choices) => choices.view);
  const invalidate = useThree((three) => three.invalidate);
  const uvSets = view.source.uvSets.join('\n');
  const textures = useMemo(() => new TextureStore(uvSets.split('\n'), invalidate), [uvSets, invalidate]);
  const kept = useRef(new Map<string, ViewMaterial>());
  useEffect(
    () => () => {
      textures.dispose();
      for (const material of kept.current.values()) dispose(material);
      kept.current.clear();
    },
    [textures],
  );
  const { images } = view;
  const { metresPerUnit } = view.source;
  const { slots: tried, exponent } = useExponentPreview();
  const state = useMemo(
    () => ({ ...view.state, materials: [...withPreview(view.state.materials, { slots: tried, exponent })] }),
    [view.state, tried, exponent],
  );
  const byPath = useMemo(() => new Map(images.map((image) => [image.path, image])), [images]);
  useEffect(() => {
    if (!model) return;
    const density = mode === 'density' ? middleDensity(model, state, byPath, uvSet) : 0;
    if (mode === 'density') useDensity.setState({ middle: density });
    const context: MaterialContext = { state, images: byPath, textures, mode, uvSet, wireframe, displaced, metresPerUnit, density };
    const { bindings } = state;
    const used = new Map<string, ViewMaterial>();
    const byKey = new Map<string, ViewMaterial>();
    const moved = new Map<string, { reach: number; parts: Mesh[] }>();
    model.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      object.userData.materialKey ??= (object.material as MeshStandardMaterial).name;
      object.userData.geometry ??= object.geometry;
      const key = (bindings && boundKey(object, bindings)) ?? (object.userData.materialKey as string);
      object.userData.shownKey = key;
      const neutral = (state.intake.parts.includes('materials') && state.materials.find((other) => other.key === key)) || PLAIN;
      let material = byKey.get(key);
      if (!material) {
        const look = lookOf(neutral, context);
        material = kept.current.get(look) ?? used.get(look) ?? createViewMaterial(neutral, context);
        material.shown.name = key;
        used.set(look, material);
        byKey.set(key, material);
      }
      object.material = material.shown;
      object.customDepthMaterial = material.depth ?? undefined;
      object.castShadow = !material.shown.transparent && !((material.shown as MeshPhysicalMaterial).transmission > 0);
      const coarse = object.userData.geometry as BufferGeometry;
      if (isDisplaced(neutral, context)) {
        object.geometry = tessellated(coarse);
        const part = moved.get(key) ?? { reach: reachOf(neutral) * metresPerUnit, parts: [] };
        part.parts.push(object);
        moved.set(key, part);
      } else object.geometry = coarse;
    });
    useTear.setState({ tears: Object.fromEntries([...moved].map(([key, { reach, parts }]) => [key, tearOf(parts, reach)])) });
    const stale = [...kept.current].filter(([look]) => !used.has(look)).map(([, material]) => material);
    kept.current = used;
    invalidate();
    const timer = setTimeout(() => stale.forEach(dispose), STALE_MS);
    return () => {
      clearTimeout(timer);
      stale.forEach(dispose);
    };
  }, [model, state, byPath, textures, mode, uvSet, wireframe, displaced, metresPerUnit, invalidate]);
}

function dispose({ shown, depth }: ViewMaterial): void {
  shown.dispose();
  depth?.dispose();
}

/** The farthest that a height moves the surface, in scene units. */
function reachOf({ channels: { height } }: NeutralMaterial): number {
  if (!height?.map) return 0;
  const { amount, mid } = heightOf(height.value, height.map);
  return Math.abs(amount) * Math.max(mid, 1 - mid);
}

/** The material that an edit bound to the part which a mesh belongs to. */
function boundKey(object: Object3D, bindings: Record<string, string>): string | undefined {
  for (let at: Object3D | null = object; at; at = at.parent) {
    const node = at.userData[NODE_KEY];
    if (typeof node === 'string') return bindings[node];
  }
  return undefined;
}

/** Answers which material lies under a place on the page, and where on its surface. */
function usePick(model: Group | null): void {
  const { camera, gl } = useThree();
  useEffect(
    () =>
      providePick(({ x, y }) => {
        const box = gl.domElement.getBoundingClientRect();
        if (!model || x < box.left || x > box.right || y < box.top || y > box.bottom) return null;
        const ray = new Raycaster();
        ray.setFromCamera(new Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2), camera);
        const [hit] = ray.intersectObject(model, true);
        if (!hit) return null;
        const uvs = [hit.uv, hit.uv1].flatMap((uv) => (uv ? [[uv.x, 1 - uv.y] as [number, number]] : []));
        return { material: (hit.object.userData.shownKey as string | undefined) ?? '', uvs };
      }),
    [model, camera, gl],
  );
}

const STALE_MS = 2000;

/** Stands for faces that have no material at all. */
const PLAIN: NeutralMaterial = {
  key: '',
  name: '',
  workflow: 'metalRough',
  channels: { baseColor: { value: [0.7, 0.7, 0.7], map: null, source: { from: 'file', detail: '' } } },
  alphaMode: 'opaque',
  alphaCutoff: 0.5,
  doubleSided: true,
  exponent: null,
  extras: {},
};

const PRESETS: Record<CameraPreset, readonly [number, number, number]> = {
  corner: [0.62, 0.34, 0.8],
  front: [0, 0.02, 1],
  back: [0, 0.02, -1],
  left: [-1, 0.02, 0],
  right: [1, 0.02, 0],
  above: [0, 1, 0.001],
  below: [0, -1, 0.001],
};

/** Frames the whole asset when it arrives and when asked to; takes the places and the lens that are asked for. */
function useCamera(sphere: Sphere | null): void {
  const { camera, controls, size, invalidate } = useThree();
  const focal = useChoices((choices) => choices.view.focal);
  const framed = useRef<Sphere | null>(null);
  const lastFocal = useRef(focal);
  useEffect(() => {
    const orbit = controls as OrbitControls | null;
    if (!sphere || !orbit || !(sphere.radius > 0)) return;
    const lens = camera as PerspectiveCamera;
    lens.fov = (2 * Math.atan(FRAME_HEIGHT / 2 / focal) * 180) / Math.PI;
    const frame = (direction: Vector3) => {
      const half = (lens.fov * Math.PI) / 360;
      const narrow = Math.min(half, Math.atan(Math.tan(half) * (size.width / size.height)));
      const distance = (sphere.radius / Math.sin(narrow)) * 1.02;
      lens.near = distance / 200;
      lens.far = distance * 20;
      lens.position.copy(sphere.center).addScaledVector(direction, distance);
      lens.updateProjectionMatrix();
      orbit.target.copy(sphere.center);
      orbit.update();
      invalidate();
    };
    if (framed.current !== sphere || lastFocal.current !== focal) {
      const direction = framed.current === sphere ? lens.position.clone().sub(orbit.target).normalize() : new Vector3(...PRESETS.corner).normalize();
      framed.current = sphere;
      lastFocal.current = focal;
      frame(direction);
    }
    const stop = [
      onFrameAll(() => frame(lens.position.clone().sub(orbit.target).normalize())),
      onPreset((preset) => frame(new Vector3(...PRESETS[preset]).normalize())),
    ];
    return () => stop.forEach((end) => end());
  }, [sphere, camera, controls, size, focal, invalidate]);
}
