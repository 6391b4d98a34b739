'use client';

import type { Part } from '@kinkajou/core/asset/parts';
import type { Finding } from '@kinkajou/core/findings/finding';
import type { Collision } from '@kinkajou/core/scene/partChange';
import type { FaceFault } from '@kinkajou/core/shape/faultyFaces';
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  type Group,
  type InterleavedBufferAttribute,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  type Object3D,
} from 'three';
import { create } from 'zustand';
import { useFocus } from '../bench/focus.ts';
import type { BenchView } from '../bench/useBench.ts';
import { usePartFocus } from '../parts/partFocus.ts';
import { viewParts } from '../parts/viewParts.ts';
import { partKeyOf } from './partKey.ts';
import type { Piece, ShapeAnswer, ShapeRequest } from './shapeWork.ts';

/** What is drawn over the model, in words. */
export const useOverlayNote = create<{ tinted: string | null; collision: string | null }>()(() => ({
  tinted: null,
  collision: null,
}));

/** Faults whose faces a finding is about; the first that any face has counts. */
const FAULTS: Readonly<Record<string, readonly FaceFault[]>> = {
  'shape.insideOut': ['inward', 'against'],
  'shape.mixedWinding': ['mixed'],
  'shape.doubledFaces': ['doubled'],
  'shape.degenerate': ['degenerate'],
  'shape.brokenNormals': ['brokenNormals'],
  'shape.noUv': ['noUv'],
  'shape.uvCollapsed': ['uvCollapsed'],
  'shape.uvOutside': ['uvOutside'],
};

/**
 * Tints the faces that the finding in hand is about, or those around the holes of a part that does not close.
 */
export function useFaultTint(model: Group | null, { findings }: Pick<BenchView, 'findings'>): void {
  const invalidate = useThree((three) => three.invalidate);
  const key = useFocus((focus) => focus.finding);
  const open = usePartFocus((focus) => focus.open);
  const finding = findings.find((other) => other.key === key);
  const faults: readonly FaceFault[] = open === null ? (FAULTS[finding?.code ?? ''] ?? NO_FAULTS) : OPEN;
  useEffect(() => {
    if (!model || faults.length === 0) return;
    let current = true;
    const overlays: Object3D[] = [];
    const parts = meshesByPart(model, (mesh) =>
      open === null ? isAbout(finding, mesh) : partKeyOf(mesh) === open,
    );
    const requests = [...parts.values()].map(async (meshes) => {
      const answer = await askShape({ kind: 'faults', faults: [...faults], pieces: meshes.map(pieceOf) });
      if (!current || answer.kind !== 'faults') return 0;
      let count = 0;
      answer.marks.forEach((marks, i) => {
        const tinted = tintOf(meshes[i], marks);
        if (!tinted) return;
        count += tinted.count;
        for (const object of tinted.objects) overlays.push(lay(object, meshes[i], model));
      });
      return count;
    });
    Promise.all(requests)
      .then((counts) => {
        if (!current) return;
        const all = counts.reduce((sum, count) => sum + count, 0);
        const what = open === null ? (finding?.title ?? '') : 'where it does not close';
        useOverlayNote.setState({
          tinted:
            all > 0
              ? `${all.toLocaleString('en')} ${all === 1 ? 'triangle' : 'triangles'} tinted: ${what}`
              : null,
        });
        invalidate();
      })
      .catch(
        (error: Error) =>
          current && useOverlayNote.setState({ tinted: `Faces cannot be tinted: ${error.message}` }),
      );
    return () => {
      current = false;
      for (const overlay of overlays) discard(overlay);
      useOverlayNote.setState({ tinted: null });
      invalidate();
    };
  }, [model, faults, finding, open, invalidate]);
}

const NO_FAULTS: readonly FaceFault[] = [];
const OPEN: readonly FaceFault[] = ['open', 'mixed'];

function isAbout(finding: Finding | undefined, mesh: Mesh): boolean {
  const { part, material } = finding?.target ?? {};
  if (part !== undefined) return partKeyOf(mesh) === part;
  return material !== undefined && mesh.userData.shownKey === material;
}

/** Draws the shapes for collision that parts were given over them. */
export function useCollisionShapes(
  model: Group | null,
  { source, state }: Pick<BenchView, 'source' | 'state'>,
  wanted: boolean,
): void {
  const invalidate = useThree((three) => three.invalidate);
  const { hidden, alone } = usePartFocus();
  const shaped = useMemo(
    () =>
      new Map(
        viewParts({ source, state }).flatMap((part) => (hasShape(part) ? [[part.key, part] as const] : [])),
      ),
    [source, state],
  );
  useEffect(() => {
    if (!model || !wanted || shaped.size === 0) return;
    let current = true;
    const overlays: Object3D[] = [];
    const parts = meshesByPart(model, (mesh) => {
      const key = partKeyOf(mesh) ?? '';
      return shaped.has(key) && !hidden.has(key) && (alone === null || alone.has(key));
    });
    const requests = [...parts].map(async ([key, meshes]) => {
      const answer = await collisionAnswer(meshes, shaped.get(key)?.collision ?? { shape: 'none' });
      if (!current || answer.kind !== 'collision') return 0;
      const lines = new LineSegments(new BufferGeometry(), COLLISION_LINE);
      lines.geometry.setAttribute('position', new BufferAttribute(answer.lines, 3));
      overlays.push(lay(lines, meshes[0], model));
      return answer.triangles;
    });
    Promise.all(requests)
      .then((triangles) => {
        if (!current) return;
        const all = triangles.reduce((sum, count) => sum + count, 0);
        useOverlayNote.setState({
          collision: `collision: ${triangles.length} ${triangles.length === 1 ? 'part' : 'parts'}, ${all.toLocaleString('en')} triangles`,
        });
        invalidate();
      })
      .catch(
        (error: Error) =>
          current && useOverlayNote.setState({ collision: `Collision cannot be drawn: ${error.message}` }),
      );
    return () => {
      current = false;
      for (const overlay of overlays) discard(overlay);
      useOverlayNote.setState({ collision: null });
      invalidate();
    };
  }, [model, shaped, wanted, hidden, alone, invalidate]);
}

/**
 * Shapes by the geometry that they stand in for: hiding a part, or another that shows the same, asks for
 * nothing anew.
 */
const shapes = new WeakMap<BufferGeometry, Map<string, Promise<ShapeAnswer>>>();

function collisionAnswer(meshes: readonly Mesh[], collision: Collision): Promise<ShapeAnswer> {
  const geometry = geometryOf(meshes[0]);
  const made = shapes.get(geometry) ?? new Map<string, Promise<ShapeAnswer>>();
  shapes.set(geometry, made);
  const key = `${JSON.stringify(collision)} ${meshes.length}`;
  const answer = made.get(key) ?? askShape({ kind: 'collision', collision, pieces: meshes.map(pieceOf) });
  made.set(key, answer);
  answer.catch(() => made.delete(key));
  return answer;
}

function hasShape({ collision, dropped }: Part): boolean {
  return !dropped && collision !== null && collision.shape !== 'none';
}

function meshesByPart(model: Group, counts: (mesh: Mesh) => boolean): Map<string, Mesh[]> {
  const parts = new Map<string, Mesh[]>();
  model.traverse((object) => {
    if (!(object instanceof Mesh) || !counts(object)) return;
    const key = partKeyOf(object) ?? '';
    parts.set(key, [...(parts.get(key) ?? []), object]);
  });
  return parts;
}

/** What a mesh shows where nothing displaces or turns it. */
function geometryOf(mesh: Mesh): BufferGeometry {
  return (mesh.userData.straight ?? mesh.userData.geometry ?? mesh.geometry) as BufferGeometry;
}

function pieceOf(mesh: Mesh): Piece {
  const geometry = geometryOf(mesh);
  const list = (name: string) => {
    const attribute = geometry.getAttribute(name);
    return attribute ? floatsOf(attribute) : null;
  };
  const points = list('position') ?? new Float32Array(0);
  return { points, corners: cornersOf(geometry), normals: list('normal'), uvs: list('uv') };
}

function floatsOf(attribute: BufferAttribute | InterleavedBufferAttribute): Float32Array {
  if (attribute instanceof BufferAttribute && attribute.array instanceof Float32Array) return attribute.array;
  const { count, itemSize } = attribute;
  return Float32Array.from({ length: count * itemSize }, (_, i) =>
    attribute.getComponent(Math.floor(i / itemSize), i % itemSize),
  );
}

function cornersOf({ index, attributes }: BufferGeometry): Uint32Array {
  return index
    ? Uint32Array.from(index.array)
    : Uint32Array.from({ length: attributes.position?.count ?? 0 }, (_, i) => i);
}

const TINT = new MeshBasicMaterial({
  color: '#cf2f3f',
  transparent: true,
  opacity: 0.62,
  side: DoubleSide,
  polygonOffset: true,
  polygonOffsetFactor: -2,
  polygonOffsetUnits: -2,
});
const TINT_LINE = new LineBasicMaterial({
  color: '#cf2f3f',
  depthTest: false,
  transparent: true,
  opacity: 0.85,
});
const COLLISION_LINE = new LineBasicMaterial({ color: '#1d7f8c', transparent: true, opacity: 0.75 });
/** More triangles than this are not drawn around: their edges would be a thicket. */
const MOST_OUTLINED = 600;

/**
 * The marked triangles as a surface over the mesh, and their edges, which are seen through what lies before
 * them.
 */
function tintOf(mesh: Mesh, marks: Uint8Array): { objects: Object3D[]; count: number } | null {
  const geometry = geometryOf(mesh);
  const corners = cornersOf(geometry);
  const places = floatsOf(geometry.getAttribute('position'));
  const chosen: number[] = [];
  marks.forEach((mark, triangle) => {
    if (mark) for (let k = 0; k < 3; k += 1) chosen.push(corners[triangle * 3 + k]);
  });
  if (chosen.length === 0) return null;
  // Places of its own, so that nothing of the model is given up with it.
  const placed = (numbers: readonly number[]) => {
    const made = new Float32Array(numbers.length * 3);
    numbers.forEach((corner, i) => made.set(places.subarray(corner * 3, corner * 3 + 3), i * 3));
    return new BufferGeometry().setAttribute('position', new BufferAttribute(made, 3));
  };
  const objects: Object3D[] = [new Mesh(placed(chosen), TINT)];
  if (chosen.length / 3 <= MOST_OUTLINED)
    objects.push(
      new LineSegments(
        placed(chosen.flatMap((corner, i) => [corner, chosen[i % 3 === 2 ? i - 2 : i + 1]])),
        TINT_LINE,
      ),
    );
  return { objects, count: chosen.length / 3 };
}

/**
 * Lays something where a mesh lies, beside the model, so that nothing takes it for a part. It cannot be
 * picked.
 */
export function lay<Laid extends Object3D>(object: Laid, mesh: Mesh, model: Group): Laid {
  mesh.updateWorldMatrix(true, false);
  const seat = model.parent;
  object.matrixAutoUpdate = false;
  object.matrix.copy(mesh.matrixWorld);
  if (seat) object.matrix.premultiply(seat.matrixWorld.clone().invert());
  object.raycast = () => {};
  seat?.add(object);
  return object;
}

function discard(object: Object3D): void {
  object.removeFromParent();
  if (object instanceof Mesh || object instanceof LineSegments) object.geometry.dispose();
}

let worker: Worker | null = null;
let asked = 0;
const waiting = new Map<number, { resolve(answer: ShapeAnswer): void; reject(error: Error): void }>();

/** Asks the one worker that looks at shapes; it stays, since another finding is a key press away. */
function askShape(
  request: { pieces: Piece[] } & (
    | { kind: 'faults'; faults: FaceFault[] }
    | { kind: 'collision'; collision: Collision }
  ),
): Promise<ShapeAnswer> {
  worker ??= startWorker();
  asked += 1;
  const id = asked;
  return new Promise((resolve, reject) => {
    waiting.set(id, { resolve, reject });
    worker?.postMessage({ ...request, id } satisfies ShapeRequest);
  });
}

function startWorker(): Worker {
  const started = new Worker(new URL('./shape.worker.ts', import.meta.url), { type: 'module' });
  started.onmessage = ({ data }: MessageEvent<ShapeAnswer | { id: number; error: string }>) => {
    const one = waiting.get(data.id);
    waiting.delete(data.id);
    if ('error' in data) one?.reject(new Error(data.error));
    else one?.resolve(data);
  };
  started.onerror = ({ message }) => {
    for (const { reject } of waiting.values()) reject(new Error(message || 'the worker ended'));
    waiting.clear();
    started.terminate();
    worker = null;
  };
  return started;
}
