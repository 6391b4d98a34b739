'use client';

import { axesOfSource } from '@kinkajou/core/scene/intake';
import { type ThreeEvent, useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { type Box3, type Group, Matrix4, Raycaster, Sphere, Vector2, type Vector3 } from 'three';
import { useChoices } from '@/ui/choices';
import { focusMaterial, useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { useExponentPreview, withPreview } from '../colour/exponentPreview.ts';
import { selectParts, usePartFocus } from '../parts/partFocus.ts';
import { useTriedState } from '../questions/tryOn.ts';
import { Figure, figurePlace } from './Figure.tsx';
import { FIGURE_HEIGHT } from './figure.ts';
import { useMaterialTint } from './materialTint.ts';
import { PivotMarks } from './PivotMarks.tsx';
import { PlaceHandles } from './PlaceHandles.tsx';
import { partKeyOf } from './partKey.ts';
import { providePick } from './pick.ts';
import { Scenery } from './Scenery.tsx';
import { useCollisionShapes, useFaultTint } from './shapeOverlays.ts';
import { boundsUnder, outlineUnder, placementOf, useEditedGeometry, useShownMaterials } from './shown.ts';
import { useShownParts } from './shownParts.ts';
import { Turntable } from './Turntable.tsx';
import { useCamera } from './useCamera.ts';

/** Steps whose rows are materials. */
const MATERIAL_STEPS = new Set(['slots', 'surface']);

/**
 * The asset's geometry with the materials of its current state, its lamps and the ground under it. A click
 * chooses a part or a material, by the step.
 */
export function AssetModel({ step }: { step: string }) {
  const choosing = step === 'parts';
  const byMaterial = MATERIAL_STEPS.has(step);
  const { view, apply } = useBench();
  const { model, reshaped } = useEditedGeometry(view);
  const { mode, wireframe, lamps, ground, figure, turn } = useChoices((choices) => choices.view);
  const { invalidate } = useThree();
  const { intake } = view.state;
  const { upAxis, metresPerUnit } = view.source;
  const placement = useMemo(
    () => placementOf(intake, upAxis, metresPerUnit),
    [intake, upAxis, metresPerUnit],
  );
  const bounds = useMemo(() => (model ? boundsUnder(model, placement) : null), [model, placement]);
  const sphere = useMemo(() => bounds?.getBoundingSphere(new Sphere()) ?? null, [bounds]);
  const { slots: tried, exponent } = useExponentPreview();
  const trial = useTriedState(view);
  const state = useMemo(
    () => ({ ...trial, materials: [...withPreview(trial.materials, { slots: tried, exponent })] }),
    [trial, tried, exponent],
  );
  // What is being placed stands elsewhere than the marks of the selection.
  const marked = usePartFocus(({ placing }) => placing === null) && choosing;
  useShownParts(model, view, { framed: marked, reshaped });
  useShownMaterials(model, { ...view, state }, { told: true });
  useFaultTint(model, view);
  useMaterialTint(model, byMaterial);
  useCollisionShapes(model, view, choosing);
  usePick(model);
  const outline = useMemo(() => (model ? outlineUnder(model, placement) : null), [model, placement]);
  const framed = useMemo(
    () => (outline && figure && bounds ? [...outline, ...figureOutline(bounds)] : outline),
    [outline, figure, bounds],
  );
  useCamera(framed);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever shows differently asks for a new frame
  useEffect(
    () => invalidate(),
    [model, placement, intake, mode, wireframe, lamps, ground, figure, turn, invalidate],
  );
  if (!model || !bounds || !sphere || bounds.isEmpty()) return null;
  const pick = (event: ThreeEvent<MouseEvent>) => {
    if (byMaterial) return pickMaterial(event);
    const { picking, placing, selected, set } = usePartFocus.getState();
    // A click that lets go of a handle chooses nothing.
    if (placing && !placing.sent) return event.stopPropagation();
    if (!picking) return pickPart(event);
    if (event.delta > 4) return;
    event.stopPropagation();
    set({ picking: false });
    const at = placeIn(model, event.point, upAxis);
    apply([
      {
        kind: 'editParts',
        change: { do: 'pivot', parts: selected, at },
        origin: { from: 'hand', detail: 'picked in the view' },
      },
    ]);
  };
  return (
    <>
      <Turntable bounds={bounds}>
        <group matrixAutoUpdate={false} matrix={placement} visible={intake.parts.includes('meshes')}>
          {/* biome-ignore lint/a11y/noStaticElementInteractions: an object of the view; the list beside it does the same by keys */}
          <primitive object={model} onClick={choosing || byMaterial ? pick : undefined} />
          {marked && <PivotMarks view={view} radius={sphere.radius} />}
          {choosing && <PlaceHandles model={model} view={view} />}
        </group>
      </Turntable>
      <Scenery bounds={bounds} sphere={sphere} />
      {figure && <Figure bounds={bounds} />}
    </>
  );
}

/** Foot and head of the person who stands beside the asset. */
function figureOutline(bounds: Box3): Vector3[] {
  const foot = figurePlace(bounds);
  return [foot, foot.clone().setY(foot.y + FIGURE_HEIGHT)];
}

/** A place of the view in the model's own axes, in metres, to a tenth of a millimetre. */
function placeIn(model: Group, point: Vector3, upAxis: 'X' | 'Y' | 'Z'): [number, number, number] {
  const own = model
    .worldToLocal(point.clone())
    .applyMatrix4(new Matrix4().fromArray([...axesOfSource(upAxis)]).invert());
  return [own.x, own.y, own.z].map((value) => Math.round(value * 1e4) / 1e4) as [number, number, number];
}

/**
 * A click selects the part that lies under it; with Ctrl it is added or taken away. A drag that turned the
 * view is none.
 */
function pickPart(event: ThreeEvent<MouseEvent>): void {
  if (event.delta > 4) return;
  event.stopPropagation();
  const key = partKeyOf(event.object);
  if (key === undefined) return;
  const { selected } = usePartFocus.getState();
  if (!event.ctrlKey && !event.metaKey) selectParts([key]);
  else
    selectParts(selected.includes(key) ? selected.filter((other) => other !== key) : [...selected, key], key);
}

/** A click finds the row of the material that lies under it; with Ctrl the row is added or taken away. */
function pickMaterial(event: ThreeEvent<MouseEvent>): void {
  if (event.delta > 4) return;
  event.stopPropagation();
  const key = event.object.userData.shownKey as string | undefined;
  if (!key) return;
  const chosen = [...new Set(useFocus.getState().selected.map(({ material }) => material))];
  if (!event.ctrlKey && !event.metaKey) focusMaterial(key);
  else focusMaterial(key, chosen.includes(key) ? chosen.filter((other) => other !== key) : [...chosen, key]);
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
        ray.firstHitOnly = true;
        ray.setFromCamera(
          new Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2),
          camera,
        );
        const [hit] = ray.intersectObject(model, true);
        if (!hit) return null;
        const uvs = [hit.uv, hit.uv1].flatMap((uv) => (uv ? [[uv.x, 1 - uv.y] as [number, number]] : []));
        return { material: (hit.object.userData.shownKey as string | undefined) ?? '', uvs };
      }),
    [model, camera, gl],
  );
}
