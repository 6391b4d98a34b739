'use client';

import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, useState } from 'react';
import {
  Box3,
  type DirectionalLight,
  type Group,
  type Material,
  Matrix4,
  Mesh,
  type MeshStandardMaterial,
  type Object3D,
  type PerspectiveCamera,
  Raycaster,
  Sphere,
  Vector2,
  Vector3,
} from 'three';
import { NODE_KEY } from '@kinkajou/core/preview/nodeKey';
import { type IntakeChoice, intakeMatrix } from '@kinkajou/core/scene/intake';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { toast } from 'sonner';
import { blobUrl } from '@/ui/api';
import { useChoices } from '@/ui/choices';
import { useBench } from '../bench/useBench.ts';
import { useExponentPreview, withPreview } from '../colour/exponentPreview.ts';
import { onFrameAll } from './frame.ts';
import { createViewMaterial, lookOf } from './materials.ts';
import { providePick } from './pick.ts';
import { TextureStore } from './textures.ts';

const VIEW_DIRECTION = new Vector3(0.62, 0.34, 0.8).normalize();

/** The asset's geometry with the materials of its current state, a key light and the ground under it. */
export function AssetModel() {
  const { view } = useBench();
  const model = useGeometry(view.geometry);
  const { mode, wireframe, key, ground, turn } = useChoices((choices) => choices.view);
  const { invalidate } = useThree();
  const { intake } = view.state;
  const { upAxis, metresPerUnit } = view.source;
  const placement = useMemo(() => placementOf(intake, upAxis, metresPerUnit), [intake, upAxis, metresPerUnit]);
  const bounds = useMemo(() => (model ? boundsUnder(model, placement) : null), [model, placement]);
  const sphere = useMemo(() => bounds?.getBoundingSphere(new Sphere()) ?? null, [bounds]);
  useMaterials(model);
  usePick(model);
  useFraming(sphere);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever shows differently asks for a new frame
  useEffect(() => invalidate(), [model, placement, intake, mode, wireframe, key, ground, turn, invalidate]);
  if (!model || !bounds || !sphere || bounds.isEmpty()) return null;
  const size = sphere.radius;
  const angle = ((turn + 40) * Math.PI) / 180;
  const lamp: [number, number, number] = [
    sphere.center.x + Math.sin(angle) * size * 3,
    sphere.center.y + size * 4.2,
    sphere.center.z + Math.cos(angle) * size * 3,
  ];
  const lit = mode === 'lit';
  return (
    <>
      <group matrixAutoUpdate={false} matrix={placement} visible={intake.parts.includes('meshes')}>
        <primitive object={model} />
      </group>
      {lit && key && <KeyLight position={lamp} target={sphere.center} size={size} />}
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

/** One lamp with a soft shadow, its shadow frustum fitted to the asset. */
function KeyLight({ position, target, size }: { position: [number, number, number]; target: Vector3; size: number }) {
  const light = useRef<DirectionalLight>(null);
  useEffect(() => {
    const lamp = light.current;
    if (!lamp) return;
    lamp.target.position.copy(target);
    lamp.target.updateMatrixWorld();
    const { camera } = lamp.shadow;
    Object.assign(camera, { left: -size * 2.2, right: size * 2.2, top: size * 2.2, bottom: -size * 2.2, near: size * 0.5, far: size * 12 });
    camera.updateProjectionMatrix();
    lamp.shadow.normalBias = size * 0.006;
    lamp.shadow.needsUpdate = true;
  }, [target, size]);
  return <directionalLight ref={light} position={position} intensity={1.6} color="#fff3df" castShadow shadow-mapSize={[2048, 2048]} shadow-radius={6} />;
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
  const { mode, wireframe } = useChoices((choices) => choices.view);
  const invalidate = useThree((three) => three.invalidate);
  const uvSets = view.source.uvSets.join('\n');
  const textures = useMemo(() => new TextureStore(uvSets.split('\n'), invalidate), [uvSets, invalidate]);
  const kept = useRef(new Map<string, Material>());
  useEffect(
    () => () => {
      textures.dispose();
      for (const material of kept.current.values()) material.dispose();
      kept.current.clear();
    },
    [textures],
  );
  const { images } = view;
  const { slots: tried, exponent } = useExponentPreview();
  const state = useMemo(
    () => ({ ...view.state, materials: [...withPreview(view.state.materials, { slots: tried, exponent })] }),
    [view.state, tried, exponent],
  );
  useEffect(() => {
    if (!model) return;
    const context = { state, images: new Map(images.map((image) => [image.path, image])), textures, mode, wireframe };
    const { bindings } = state;
    const used = new Map<string, Material>();
    const byKey = new Map<string, Material>();
    model.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      object.userData.materialKey ??= (object.material as MeshStandardMaterial).name;
      const key = (bindings && boundKey(object, bindings)) ?? (object.userData.materialKey as string);
      object.userData.shownKey = key;
      let material = byKey.get(key);
      if (!material) {
        const neutral = (state.intake.parts.includes('materials') && state.materials.find((other) => other.key === key)) || PLAIN;
        const look = lookOf(neutral, context);
        material = kept.current.get(look) ?? used.get(look) ?? createViewMaterial(neutral, context);
        material.name = key;
        used.set(look, material);
        byKey.set(key, material);
      }
      object.material = material;
      object.castShadow = !material.transparent;
    });
    const stale = [...kept.current].filter(([look]) => !used.has(look)).map(([, material]) => material);
    kept.current = used;
    invalidate();
    const timer = setTimeout(() => stale.forEach((material) => material.dispose()), STALE_MS);
    return () => {
      clearTimeout(timer);
      for (const material of stale) material.dispose();
    };
  }, [model, state, images, textures, mode, wireframe, invalidate]);
}

/** The material that an edit bound to the part which a mesh belongs to. */
function boundKey(object: Object3D, bindings: Record<string, string>): string | undefined {
  for (let at: Object3D | null = object; at; at = at.parent) {
    const node = at.userData[NODE_KEY];
    if (typeof node === 'string') return bindings[node];
  }
  return undefined;
}

/** Answers which material lies under a place on the page. */
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
        return (hit?.object.userData.shownKey as string | undefined) ?? null;
      }),
    [model, camera, gl],
  );
}

const STALE_MS = 2000;

/** Stands for faces that have no material at all. */
const PLAIN = {
  key: '',
  name: '',
  workflow: 'metalRough' as const,
  channels: { baseColor: { value: [0.7, 0.7, 0.7] as [number, number, number], map: null, source: { from: 'file' as const, detail: '' } } },
  alphaMode: 'opaque' as const,
  alphaCutoff: 0.5,
  doubleSided: true,
  exponent: null,
  extras: {},
};

/** Frames the whole asset when it arrives and when asked to. */
function useFraming(sphere: Sphere | null): void {
  const { camera, controls, size, invalidate } = useThree();
  const framed = useRef<Sphere | null>(null);
  useEffect(() => {
    const orbit = controls as OrbitControls | null;
    if (!sphere || !orbit || !(sphere.radius > 0)) return;
    const frame = (direction: Vector3) => {
      const lens = camera as PerspectiveCamera;
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
    if (framed.current !== sphere) {
      framed.current = sphere;
      frame(VIEW_DIRECTION);
    }
    return onFrameAll(() => frame(camera.position.clone().sub(orbit.target).normalize()));
  }, [sphere, camera, controls, size, invalidate]);
}
