'use client';

import { NODE_KEY } from '@kinkajou/core/preview/nodeKey';
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { Box3, Box3Helper, type BufferGeometry, Color, type Group, Mesh, type Object3D } from 'three';
import { isDrawn, usePartFocus } from '../parts/partFocus.ts';
import { viewParts } from '../parts/viewParts.ts';
import { partKeyOf } from './partKey.ts';

/** Selected parts that get a frame; more of them are a thicket. */
const MOST_FRAMES = 60;

interface PartsShown {
  /** Selected ones have a frame. */
  framed: boolean;
  /** The geometry is as edits have left it: what they turned is turned already. */
  reshaped: boolean;
  /** What the tree hides is shown all the same, as the file has it. */
  whole?: boolean;
}

/**
 * Shows parts as edits and the tree have them: dropped and hidden ones not at all, turned faces turned,
 * selected ones framed.
 */
export function useShownParts(
  model: Group | null,
  { source, state }: Parameters<typeof viewParts>[0],
  { framed, reshaped, whole = false }: PartsShown,
): void {
  const invalidate = useThree((three) => three.invalidate);
  const { hidden, revealed, alone, selected } = usePartFocus();
  const parts = useMemo(
    () => new Map(viewParts({ source, state }).map((part) => [part.key, part])),
    [source, state],
  );
  const turned = useMemo(() => {
    const times = new Map<string, number>();
    if (reshaped) return times;
    for (const change of state.parts ?? [])
      if (change.do === 'turnFaces')
        for (const key of change.parts) times.set(key, (times.get(key) ?? 0) + 1);
    return times;
  }, [state.parts, reshaped]);
  const merged = useMemo(() => {
    const into = new Map<string, string>();
    for (const part of parts.values()) for (const key of part.merged) into.set(key, part.key);
    return into;
  }, [parts]);
  useEffect(() => {
    model?.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      const own = partKeyOf(object) ?? '';
      const key = merged.get(own) ?? own;
      const part = parts.get(key) ?? { key, hidden: false, dropped: false };
      const shown = isDrawn(part, { hidden, revealed, alone }, whole);
      // Layers, since what is not visible hides its children too.
      if (shown) object.layers.set(0);
      else object.layers.disableAll();
      object.userData.straight ??= object.geometry;
      const straight = object.userData.straight as BufferGeometry;
      const geometry = (turned.get(own) ?? 0) % 2 === 1 ? turnedGeometry(straight) : straight;
      if (object.userData.geometry !== geometry) object.geometry = object.userData.geometry = geometry;
    });
    invalidate();
  }, [model, parts, merged, turned, hidden, revealed, alone, whole, invalidate]);
  useEffect(() => {
    if (!model || !framed || selected.length === 0) return;
    const frames = framesOf(model, new Set(selected.slice(0, MOST_FRAMES)), merged);
    for (const frame of frames) model.add(frame);
    invalidate();
    return () => {
      for (const frame of frames) {
        model.remove(frame);
        frame.dispose();
      }
      invalidate();
    };
  }, [model, framed, selected, merged, invalidate]);
}

const HONEY = new Color('#e0a526');

/** A frame around each selected part with what hangs on it, in the model's own space. */
function framesOf(
  model: Group,
  selected: ReadonlySet<string>,
  merged: ReadonlyMap<string, string>,
): Box3Helper[] {
  const boxes = new Map<string, Box3>();
  model.updateMatrixWorld(true);
  const seat = model.matrixWorld.clone().invert();
  model.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    object.geometry.boundingBox ?? object.geometry.computeBoundingBox();
    for (let place: Object3D | null = object; place; place = place.parent) {
      const key = place.userData[NODE_KEY];
      const own = typeof key === 'string' ? (merged.get(key) ?? key) : '';
      if (!selected.has(own) || !object.geometry.boundingBox) continue;
      const box = boxes.get(own) ?? new Box3();
      box.union(object.geometry.boundingBox.clone().applyMatrix4(object.matrixWorld).applyMatrix4(seat));
      boxes.set(own, box);
    }
  });
  return [...boxes.values()].map((box) => {
    const frame = new Box3Helper(box, HONEY);
    frame.raycast = () => {};
    return frame;
  });
}

const turnings = new WeakMap<BufferGeometry, BufferGeometry>();

/** The same faces the other way round; made once. */
function turnedGeometry(geometry: BufferGeometry): BufferGeometry {
  const known = turnings.get(geometry);
  if (known) return known;
  const turned = geometry.clone();
  if (turned.index) {
    const { array } = turned.index;
    for (let i = 0; i + 2 < array.length; i += 3) [array[i + 1], array[i + 2]] = [array[i + 2], array[i + 1]];
  }
  const normals = turned.getAttribute('normal');
  const places = turned.getAttribute('position');
  if (normals && turned.index && looksAgainst(turned))
    for (let i = 0; i < normals.count; i += 1)
      normals.setXYZ(i, -normals.getX(i), -normals.getY(i), -normals.getZ(i));
  if (places) turned.computeBoundingBox();
  turnings.set(geometry, turned);
  return turned;
}

/** Whether normals point against most of the faces. */
function looksAgainst(geometry: BufferGeometry): boolean {
  const normals = geometry.getAttribute('normal');
  const places = geometry.getAttribute('position');
  const index = geometry.index?.array ?? [];
  let along = 0;
  const [a, b, c, n] = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ];
  const read = (from: typeof places, at: number, to: number[]) => {
    to[0] = from.getX(at);
    to[1] = from.getY(at);
    to[2] = from.getZ(at);
  };
  for (let i = 0; i + 2 < index.length; i += 3) {
    read(places, index[i], a);
    read(places, index[i + 1], b);
    read(places, index[i + 2], c);
    read(normals, index[i], n);
    const [ux, uy, uz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
    const [vx, vy, vz] = [c[0] - a[0], c[1] - a[1], c[2] - a[2]];
    along += Math.sign((uy * vz - uz * vy) * n[0] + (uz * vx - ux * vz) * n[1] + (ux * vy - uy * vx) * n[2]);
  }
  return along < 0;
}
