'use client';

import type { AssetSource, AssetState, ParcelImage } from '@kinkajou/core/asset/asset';
import { reshapedKey } from '@kinkajou/core/asset/reshaped';
import { heightOf } from '@kinkajou/core/materials/height';
import { type IntakeChoice, intakeMatrix } from '@kinkajou/core/scene/intake';
import { createMaterial, type Material as NeutralMaterial, type Rgb } from '@kinkajou/core/scene/material';
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import {
  Box3,
  type BufferGeometry,
  type Group,
  Matrix4,
  Mesh,
  type MeshPhysicalMaterial,
  type MeshStandardMaterial,
  type Object3D,
  Vector3,
} from 'three';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { blobUrl } from '@/ui/api';
import { useChoices } from '@/ui/choices';
import { noteRead, noteUnread } from '@/ui/connection';
import { middleDensity, useDensity } from './density.ts';
import { tearOf, tessellated } from './displace.ts';
import {
  createViewMaterial,
  isDisplaced,
  lookOf,
  type MaterialContext,
  type ViewMaterial,
} from './materials.ts';
import { partKeyOf } from './partKey.ts';
import { quickenRaycasts } from './quickRaycast.ts';
import { turnTangentSigns } from './tangents.ts';
import { useTear } from './tear.ts';
import { TextureStore } from './textures.ts';
import { uvPlace } from './uvPlaces.ts';

/** What the view draws: geometry, and materials with the images that they read. */
export interface Shown {
  /** A blob with the geometry alone, as GLB. */
  geometry: string;
  source: Pick<AssetSource, 'upAxis' | 'metresPerUnit' | 'uvSets' | 'uvPlaces'>;
  state: AssetState;
  images: readonly ParcelImage[];
}

export interface ShowOptions {
  /** Panels are told of densities and tears. */
  told: boolean;
  /** Normals are shown as if all pointed Y+. */
  alike?: boolean;
}

/** The geometry is kept as the file states it; a choice at intake moves it as a whole. */
export function placementOf(intake: IntakeChoice, upAxis: 'X' | 'Y' | 'Z', metresPerUnit: number): Matrix4 {
  return new Matrix4().fromArray([...intakeMatrix(intake, upAxis, metresPerUnit)]);
}

export function boundsUnder(model: Group, placement: Matrix4): Box3 {
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
          .applyMatrix4(
            new Matrix4().multiplyMatrices(
              placement,
              new Matrix4().multiplyMatrices(seat, object.matrixWorld),
            ),
          ),
      );
  });
  return box;
}

/** Points enough to tell how a model lies in the picture. */
const OUTLINE_POINTS = 3000;

/** Places spread over all that is shown, as {@link boundsUnder} sees it; at least one of each mesh. */
export function outlineUnder(model: Group, placement: Matrix4): Vector3[] {
  const meshes: Mesh[] = [];
  model.updateMatrixWorld(true);
  model.traverse(
    (object) => object instanceof Mesh && object.geometry.getAttribute('position') && meshes.push(object),
  );
  const countOf = ({ geometry }: Mesh) => geometry.getAttribute('position').count;
  const step = Math.ceil(meshes.reduce((sum, mesh) => sum + countOf(mesh), 0) / OUTLINE_POINTS);
  const seat = model.parent ? model.parent.matrixWorld.clone().invert() : new Matrix4();
  return meshes.flatMap((mesh) => {
    const into = new Matrix4().multiplyMatrices(
      placement,
      new Matrix4().multiplyMatrices(seat, mesh.matrixWorld),
    );
    const places = mesh.geometry.getAttribute('position');
    return Array.from({ length: Math.ceil(places.count / step) }, (_, i) =>
      new Vector3().fromBufferAttribute(places, i * step).applyMatrix4(into),
    );
  });
}

/** The corners of a box. */
export function cornersOf({ min, max }: Box3): Vector3[] {
  return Array.from(
    { length: 8 },
    (_, i) => new Vector3(i & 1 ? max.x : min.x, i & 2 ? max.y : min.y, i & 4 ? max.z : min.z),
  );
}

/** A model that is shown, while another may be on its way. */
interface LoadedModel {
  model: Group | null;
  /** It is as edits have left it. */
  reshaped: boolean;
}

/**
 * The geometry of an asset as its edits have left it, once the server has made it; until then the one before.
 */
export function useEditedGeometry({
  id,
  geometry,
  state,
}: {
  id: string | null;
  geometry: string;
  state: AssetState;
}): LoadedModel {
  const key = useMemo(() => (id === null ? null : reshapedKey(state, geometry)), [id, state, geometry]);
  return useModel(key === null ? blobUrl(geometry) : `/api/assets/${id}/geometry?of=${key}`, key !== null);
}

function useModel(url: string, reshaped: boolean): LoadedModel {
  const [loaded, setLoaded] = useState<LoadedModel>({ model: null, reshaped: false });
  useEffect(() => {
    let current = true;
    fetchModel(url, () => current)
      .then(async (bytes) => {
        if (!bytes) return;
        const { scene } = await new GLTFLoader().parseAsync(bytes, '');
        if (!current) return;
        turnTangentSigns(scene);
        scene.traverse((object) => {
          if (!(object instanceof Mesh)) return;
          object.castShadow = object.receiveShadow = true;
          quickenRaycasts(object);
        });
        setLoaded({ model: scene, reshaped });
      })
      .catch((error: Error) => current && toast.error(`The geometry cannot be shown: ${error.message}`));
    return () => {
      current = false;
    };
  }, [url, reshaped]);
  const { model } = loaded;
  useEffect(
    () => () =>
      model?.traverse((object) => {
        if (object instanceof Mesh) object.geometry.dispose();
      }),
    [model],
  );
  return loaded;
}

const ASK_AGAIN_MS = 400;
const MOST_TRIES = 25;
/** A geometry that the store has lost may be given back to it. */
const LOST_AGAIN_MS = 4000;
const GEOMETRY = 'The geometry';

/**
 * The page may be ahead of the server, which says so until it has heard of the edit. Null once nobody wants
 * it any more.
 */
async function fetchModel(url: string, wanted: () => boolean): Promise<ArrayBuffer | null> {
  let tries = 0;
  while (wanted()) {
    // A server that does not answer is told elsewhere.
    const response = await fetch(url).catch(() => null);
    if (response?.ok) {
      noteRead(GEOMETRY);
      return response.arrayBuffer();
    }
    if (response === null || response.status === 404) {
      if (response) noteUnread(GEOMETRY);
      await new Promise((resolve) => setTimeout(resolve, LOST_AGAIN_MS));
      continue;
    }
    tries += 1;
    if (response.status !== 409 || tries === MOST_TRIES)
      throw new Error(
        ((await response.json().catch(() => null)) as ErrorAnswer)?.error?.text ??
          `the server answered ${response.status}`,
      );
    await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN_MS));
  }
  noteRead(GEOMETRY);
  return null;
}

type ErrorAnswer = { error?: { text?: string } } | null;

/**
 * Gives each part the material of its state A material whose look an edit does not touch stays as it is, so
 * that its shader is not built again; one that is no longer used is freed only after the next picture, since
 * a new one may share its program.
 */
export function useShownMaterials(
  model: Group | null,
  shown: Shown,
  { told: reported, alike = false }: ShowOptions,
): void {
  const { mode, uvSet, wireframe, displaced } = useChoices((choices) => choices.view);
  const invalidate = useThree((three) => three.invalidate);
  const { state, images, source } = shown;
  const { metresPerUnit } = source;
  const { uvSets, uvPlaces } = source;
  const sets = JSON.stringify({ uvSets, uvPlaces });
  const textures = useMemo(() => {
    const placed = JSON.parse(sets);
    return new TextureStore((name) => uvPlace(placed, name), invalidate);
  }, [sets, invalidate]);
  const kept = useRef(new Map<string, ViewMaterial>());
  useEffect(
    () => () => {
      textures.dispose();
      for (const material of kept.current.values()) dispose(material);
      kept.current.clear();
    },
    [textures],
  );
  const byPath = useMemo(() => new Map(images.map((image) => [image.path, image])), [images]);
  useEffect(() => {
    if (!model) return;
    const density = mode === 'density' ? middleDensity(model, state, byPath, uvSet) : 0;
    if (mode === 'density' && reported) useDensity.setState({ middle: density });
    const context: MaterialContext = {
      state,
      images: byPath,
      textures,
      mode,
      uvSet,
      wireframe,
      displaced,
      metresPerUnit,
      density,
      alike,
      coloured: false,
    };
    const { bindings, merged = {} } = state;
    const used = new Map<string, ViewMaterial>();
    const byKey = new Map<string, ViewMaterial>();
    const moved = new Map<string, { reach: number; parts: Mesh[] }>();
    model.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      object.userData.materialKey ??= (object.material as MeshStandardMaterial).name;
      object.userData.geometry ??= object.geometry;
      const own = (bindings && boundKey(object, bindings)) ?? (object.userData.materialKey as string);
      const key = Object.hasOwn(merged, own) ? merged[own] : own;
      object.userData.shownKey = key;
      const coloured = (object.userData.geometry as BufferGeometry).hasAttribute('color');
      const neutral =
        (state.intake.parts.includes('materials') && state.materials.find((other) => other.key === key)) ||
        (coloured ? PAINTED : PLAIN);
      const kind = `${coloured} ${key}`;
      let material = byKey.get(kind);
      if (!material) {
        const own = { ...context, coloured };
        const look = lookOf(neutral, own);
        material = kept.current.get(look) ?? used.get(look) ?? createViewMaterial(neutral, own);
        material.shown.name = key;
        used.set(look, material);
        byKey.set(kind, material);
      }
      object.material = material.shown;
      object.customDepthMaterial = material.depth ?? undefined;
      object.castShadow =
        !material.shown.transparent && !((material.shown as MeshPhysicalMaterial).transmission > 0);
      const coarse = object.userData.geometry as BufferGeometry;
      if (isDisplaced(neutral, context)) {
        object.geometry = tessellated(coarse);
        const part = moved.get(key) ?? { reach: reachOf(neutral) * metresPerUnit, parts: [] };
        part.parts.push(object);
        moved.set(key, part);
      } else object.geometry = coarse;
    });
    if (reported)
      useTear.setState({
        tears: Object.fromEntries([...moved].map(([key, { reach, parts }]) => [key, tearOf(parts, reach)])),
      });
    const stale = [...kept.current].filter(([look]) => !used.has(look)).map(([, material]) => material);
    kept.current = used;
    invalidate();
    const timer = setTimeout(() => stale.forEach(dispose), STALE_MS);
    return () => {
      clearTimeout(timer);
      stale.forEach(dispose);
    };
  }, [
    model,
    state,
    byPath,
    textures,
    mode,
    uvSet,
    wireframe,
    displaced,
    metresPerUnit,
    reported,
    alike,
    invalidate,
  ]);
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
  return bindings[partKeyOf(object) ?? ''];
}

const STALE_MS = 2000;

/** Stands for faces that have no material at all. */
const PLAIN = plain([0.7, 0.7, 0.7]);
/** The same where points have colours. */
const PAINTED = plain([1, 1, 1]);

function plain(value: Rgb): NeutralMaterial {
  const source = { from: 'file' as const, detail: '' };
  return {
    ...createMaterial('', 'metalRough'),
    doubleSided: true,
    channels: { baseColor: { value, map: null, source } },
  };
}
