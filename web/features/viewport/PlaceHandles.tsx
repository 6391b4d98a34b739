'use client';

import { NODE_KEY } from '@kinkajou/core/preview/nodeKey';
import { axesOfSource } from '@kinkajou/core/scene/intake';
import { placementMatrix } from '@kinkajou/core/scene/placeParts';
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import { Euler, type Group, MathUtils, Matrix4, Object3D } from 'three';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import type { BenchView } from '../bench/useBench.ts';
import { usePartFocus } from '../parts/partFocus.ts';
import { type Handles, type Placing, rounded } from '../parts/placing.ts';

const MODES: Record<Handles, 'translate' | 'rotate' | 'scale'> = {
  move: 'translate',
  turn: 'rotate',
  size: 'scale',
};

/** Of the handles along X, Y and Z, and of the one that is held. */
const COLOURS = ['#b4472a', '#3f7d55', '#2f6f9f', '#e0a526'] as const;

/** The layer of what lies over the scene and is none of it. */
const OVER_ALL = 1;

interface PlaceHandlesProps {
  model: Group;
  view: Pick<BenchView, 'source' | 'state'>;
}

/** Shows parts where they are being placed, with handles until the placement is sent. */
export function PlaceHandles({ model, view: { source, state } }: PlaceHandlesProps) {
  const { placing, set } = usePartFocus();
  const into = useMemo(() => new Matrix4().fromArray([...axesOfSource(source.upAxis)]), [source.upAxis]);
  useShownPlaced(model, placing, into);
  // The geometry with the placement in it has come, or the edit was taken back before.
  const first = useRef(model);
  useEffect(() => {
    if (first.current === model) return;
    first.current = model;
    if (usePartFocus.getState().placing?.sent) set({ placing: null });
  }, [model, set]);
  const kept = state.parts?.length ?? 0;
  const sentAt = useRef(kept);
  useEffect(() => {
    if (!placing?.sent) sentAt.current = kept;
    else if (kept <= sentAt.current) set({ placing: null });
  }, [placing, kept, set]);
  if (!placing || placing.sent) return null;
  return <HandlesOf placing={placing} into={into} />;
}

/** Moves the parts' own objects, and puts them back when it is over. */
function useShownPlaced(model: Group, placing: Placing | null, into: Matrix4): void {
  const invalidate = useThree((three) => three.invalidate);
  useEffect(() => {
    if (!placing) return;
    const placed = into
      .clone()
      .multiply(new Matrix4().fromArray([...placementMatrix(placing)]))
      .multiply(into.clone().invert());
    model.updateMatrixWorld(true);
    const seat = model.matrixWorld.clone().invert();
    const moved = topmost(model, new Set(placing.parts)).map((object) => {
      const { matrixAutoUpdate } = object;
      const matrix = object.matrix.clone();
      const above = seat.clone().multiply(object.parent?.matrixWorld ?? new Matrix4());
      object.matrixAutoUpdate = false;
      object.matrix.copy(above.clone().invert().multiply(placed).multiply(above).multiply(matrix));
      object.matrixWorldNeedsUpdate = true;
      return { object, matrix, matrixAutoUpdate };
    });
    invalidate();
    return () => {
      for (const { object, matrix, matrixAutoUpdate } of moved) {
        object.matrix.copy(matrix);
        object.matrixAutoUpdate = matrixAutoUpdate;
        object.matrixWorldNeedsUpdate = true;
      }
      invalidate();
    };
  }, [model, placing, into, invalidate]);
}

/** Objects of these parts, without those that hang on one of them. */
function topmost(model: Object3D, keys: ReadonlySet<string>): Object3D[] {
  const found: Object3D[] = [];
  const pending = [model];
  for (let object = pending.pop(); object; object = pending.pop()) {
    const key = object.userData[NODE_KEY];
    if (typeof key === 'string' && keys.has(key)) found.push(object);
    else pending.push(...object.children);
  }
  return found;
}

/** Handles at the place that is turned about, in the model's own axes and metres. */
function HandlesOf({ placing, into }: { placing: Placing; into: Matrix4 }) {
  const { camera, gl, scene, controls, invalidate } = useThree();
  const target = useMemo(() => new Object3D(), []);
  const handles = useMemo(() => new TransformControls(camera, gl.domElement), [camera, gl]);
  useEffect(() => {
    // The first x of a turn is what acts first.
    target.rotation.order = 'ZYX';
    handles.attach(target);
    handles.setSpace('world');
    handles.setSize(0.8);
    handles.setColors(...COLOURS);
    const helper = handles.getHelper();
    // Seen and taken hold of through the view's camera alone: what is on the ground casts no darkness of it.
    helper.traverse((object) => object.layers.set(OVER_ALL));
    handles.getRaycaster().layers.set(OVER_ALL);
    camera.layers.enable(OVER_ALL);
    scene.add(helper);
    const orbit = controls as OrbitControls | null;
    const redraw = () => invalidate();
    const hold = ({ value }: { value: unknown }) => {
      if (orbit) orbit.enabled = value !== true;
    };
    const follow = () => {
      const { placing: now, set } = usePartFocus.getState();
      if (now && handles.dragging) set({ placing: { ...now, ...placedBy(target, now) } });
    };
    handles.addEventListener('change', redraw);
    handles.addEventListener('dragging-changed', hold);
    handles.addEventListener('objectChange', follow);
    return () => {
      if (orbit) orbit.enabled = true;
      scene.remove(helper);
      camera.layers.disable(OVER_ALL);
      handles.detach();
      handles.dispose();
      invalidate();
    };
  }, [handles, target, scene, camera, controls, invalidate]);
  useEffect(() => handles.setMode(MODES[placing.handles]), [handles, placing.handles]);
  useEffect(() => {
    if (handles.dragging) return;
    target.position.set(
      ...(placing.about.map((value, k) => value + placing.move[k]) as [number, number, number]),
    );
    target.rotation.set(...(placing.turn.map(MathUtils.degToRad) as [number, number, number]), 'ZYX');
    target.scale.setScalar(placing.scale);
    target.updateMatrixWorld(true);
    invalidate();
  }, [handles, target, placing, invalidate]);
  return (
    <group matrixAutoUpdate={false} matrix={into}>
      <primitive object={target} />
    </group>
  );
}

/** What the handles have made of the place; sizes are the same in all directions. */
function placedBy(target: Object3D, { about, scale: before }: Placing) {
  const place = target.position.toArray().map((value, k) => value - about[k]) as [number, number, number];
  const { x, y, z } = new Euler().setFromQuaternion(target.quaternion, 'ZYX');
  const turn = [x, y, z].map(MathUtils.radToDeg) as [number, number, number];
  const [scale] = target.scale
    .toArray()
    .map(Math.abs)
    .sort((a, b) => Math.abs(Math.log(b / before)) - Math.abs(Math.log(a / before)));
  return rounded({ about, move: place, turn, scale: scale > 0 ? scale : before });
}
