'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import {
  Box3,
  DoubleSide,
  type Group,
  Mesh,
  MeshBasicMaterial,
  type Object3D,
  type PerspectiveCamera,
  type Scene,
  Sphere,
  Vector3,
  type WebGLRenderer,
} from 'three';
import type { SideView } from '@/server/services/compare';
import { useChoices } from '@/ui/choices';
import { Scenery } from '../viewport/Scenery.tsx';
import {
  boundsUnder,
  cornersOf,
  placementOf,
  useEditedGeometry,
  useShownMaterials,
} from '../viewport/shown.ts';
import { useShownParts } from '../viewport/shownParts.ts';
import { useCamera } from '../viewport/useCamera.ts';
import { createDifference } from './difference.ts';
import { useCompareFocus, usePair, useSide } from './useCompare.ts';

const BLINK_MS = 700;
/** Sizes closer than this count as the same. */
const SAME_SIZE = 0.002;

/** Both sides in one place: drawn in halves, beside each other, in turn, or as their difference. */
export function CompareScene() {
  const pair = usePair();
  const a = useSide(pair?.a.side);
  const b = useSide(pair?.b.side);
  const [boundsA, tellA] = useBoundsOf(a?.models);
  const [boundsB, tellB] = useBoundsOf(b?.models);
  const groupA = useRef<Group>(null);
  const groupB = useRef<Group>(null);
  const sphere = useMemo(() => boundsA?.getBoundingSphere(new Sphere()) ?? null, [boundsA]);
  const scale = scaleOf(boundsA, boundsB);
  useEffect(() => useCompareFocus.setState({ scaled: scale !== 1 }), [scale]);
  const outline = useMemo(() => (boundsA && !boundsA.isEmpty() ? cornersOf(boundsA) : null), [boundsA]);
  const beside = useChoices(({ compare }) => compare.way === 'beside');
  useCamera(outline, beside ? 0.5 : 1);
  useDrawing(groupA, groupB);
  return (
    <>
      <group ref={groupA}>
        {a?.models.map((model, i) => (
          <SideModel key={model.geometry} shown={model} index={i} tell={tellA} told={i === 0} />
        ))}
      </group>
      <group ref={groupB} scale={scale}>
        {b?.models.map((model, i) => (
          <SideModel key={model.geometry} shown={model} index={i} tell={tellB} told={false} />
        ))}
      </group>
      {boundsA && sphere && !boundsA.isEmpty() && <Scenery bounds={boundsA} sphere={sphere} />}
    </>
  );
}

/** B is shown at A's size where a destination scaled it. */
function scaleOf(a: Box3 | null, b: Box3 | null): number {
  if (!a || !b || a.isEmpty() || b.isEmpty()) return 1;
  const longest = (box: Box3) => Math.max(...box.getSize(new Vector3()).toArray());
  const ratio = longest(a) / longest(b);
  return Number.isFinite(ratio) && Math.abs(ratio - 1) > SAME_SIZE ? ratio : 1;
}

type Tell = (index: number, box: Box3) => void;

/** The box around all models of a side, as they arrive. */
function useBoundsOf(models: readonly unknown[] | undefined): [Box3 | null, Tell] {
  const [boxes, setBoxes] = useState<{ of: unknown; list: (Box3 | undefined)[] }>({
    of: undefined,
    list: [],
  });
  const tell = useCallback<Tell>(
    (index, box) =>
      setBoxes((before) => {
        const list = before.of === models ? [...before.list] : [];
        list[index] = box;
        return { of: models, list };
      }),
    [models],
  );
  const whole = useMemo(() => {
    if (boxes.of !== models || !models) return null;
    const there = boxes.list.filter((box): box is Box3 => box !== undefined);
    return there.length < models.length ? null : there.reduce((sum, box) => sum.union(box), new Box3());
  }, [boxes, models]);
  return [whole, tell];
}

/** As its edits have left it: what is dropped, cut or turned, too. */
function SideModel({
  shown,
  index,
  tell,
  told: reported,
}: {
  shown: SideView['models'][number];
  index: number;
  tell: Tell;
  told: boolean;
}) {
  const { model, reshaped } = useEditedGeometry(shown);
  const { invalidate } = useThree();
  const { intake } = shown.state;
  const { upAxis, metresPerUnit } = shown.source;
  const placement = useMemo(
    () => placementOf(intake, upAxis, metresPerUnit),
    [intake, upAxis, metresPerUnit],
  );
  useShownParts(model, shown, { framed: false, reshaped, whole: true });
  useShownMaterials(model, shown, { told: reported, alike: true });
  useEffect(() => {
    if (!model) return;
    tell(index, boundsUnder(model, placement));
    invalidate();
  }, [model, placement, index, tell, invalidate]);
  usePartTint(model);
  if (!model) return null;
  return (
    <group matrixAutoUpdate={false} matrix={placement} visible={intake.parts.includes('meshes')}>
      <primitive object={model} />
    </group>
  );
}

/** Lays a colour over the part whose row was chosen. */
function usePartTint(model: Object3D | null | undefined): void {
  const part = useCompareFocus((focus) => focus.part);
  const { invalidate } = useThree();
  useEffect(() => {
    if (!model || part === null) return;
    const tint = new MeshBasicMaterial({
      color: 0xe8590c,
      transparent: true,
      opacity: 0.55,
      depthTest: false,
      side: DoubleSide,
    });
    const tints: { over: Mesh; under: Mesh }[] = [];
    model.traverse((object) => {
      if ((object.userData.name ?? object.name) !== part) return;
      object.traverse((own) => {
        if (own instanceof Mesh) tints.push({ over: new Mesh(own.geometry, tint), under: own });
      });
    });
    for (const { over, under } of tints) under.add(over);
    invalidate();
    return () => {
      for (const { over } of tints) over.removeFromParent();
      tint.dispose();
      invalidate();
    };
  }, [model, part, invalidate]);
}

/** Takes the drawing over from the canvas: each side by itself, where and when it is to be seen. */
function useDrawing(a: RefObject<Group | null>, b: RefObject<Group | null>): void {
  const { invalidate } = useThree();
  const { way, at: index, scale } = useChoices((choices) => choices.compare);
  const view = useChoices((choices) => choices.view);
  const difference = useMemo(createDifference, []);
  useEffect(() => () => difference.dispose(), [difference]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever shows differently asks for a new frame
  useEffect(() => invalidate(), [way, index, scale, view, invalidate]);
  useEffect(() => {
    if (way !== 'blink') return;
    const timer = setInterval(() => {
      useCompareFocus.setState(({ blinkB }) => ({ blinkB: !blinkB }));
      invalidate();
    }, BLINK_MS);
    return () => clearInterval(timer);
  }, [way, invalidate]);
  useFrame(({ gl, scene, camera, size }) => {
    const show = (side: 'a' | 'b') => {
      if (a.current) a.current.visible = side === 'a';
      if (b.current) b.current.visible = side === 'b';
    };
    const lens = camera as PerspectiveCamera;
    if (way === 'blink') {
      show(useCompareFocus.getState().blinkB ? 'b' : 'a');
      gl.render(scene, camera);
    } else if (way === 'difference') {
      difference.draw(gl, { scene, lens }, show, scale);
    } else
      drawHalves({
        gl,
        scene,
        lens,
        show,
        width: size.width,
        height: size.height,
        at: way === 'wipe' ? index : 0.5,
        beside: way === 'beside',
      });
    // Pictures and the probe see side A.
    show('a');
  }, 1);
}

interface Halves {
  gl: WebGLRenderer;
  scene: Scene;
  lens: PerspectiveCamera;
  show: (side: 'a' | 'b') => void;
  width: number;
  height: number;
  at: number;
  beside: boolean;
}

/** A to the left of a line and B to its right; beside each other, each has the whole of it in its half. */
function drawHalves({ gl, scene, lens, show, width, height, at: index, beside }: Halves): void {
  const line = Math.round(width * index);
  gl.setScissorTest(true);
  if (beside) {
    lens.aspect = width / 2 / height;
    lens.zoom = Math.min(1, Math.max(0.5, lens.aspect));
    lens.updateProjectionMatrix();
  }
  for (const [side, left, wide] of [
    ['a', 0, line],
    ['b', line, width - line],
  ] as const) {
    if (wide <= 0) continue;
    show(side);
    gl.setScissor(left, 0, wide, height);
    if (beside) gl.setViewport(left, 0, wide, height);
    gl.render(scene, lens);
  }
  gl.setScissorTest(false);
  if (!beside) return;
  gl.setViewport(0, 0, width, height);
  lens.aspect = width / height;
  lens.zoom = 1;
  lens.updateProjectionMatrix();
}
