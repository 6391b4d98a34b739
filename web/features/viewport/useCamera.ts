'use client';

import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import { type PerspectiveCamera, Vector3 } from 'three';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { useChoices } from '@/ui/choices';
import { fitCamera } from './fit.ts';
import { type CameraPreset, onFrameAll, onPreset } from './frame.ts';

/** Picture height in millimetres that focal lengths are for. */
const FRAME_HEIGHT = 24;

const PRESETS: Record<CameraPreset, readonly [number, number, number]> = {
  corner: [0.62, 0.34, 0.8],
  front: [0, 0.02, 1],
  back: [0, 0.02, -1],
  left: [-1, 0.02, 0],
  right: [1, 0.02, 0],
  above: [0, 1, 0.001],
  below: [0, -1, 0.001],
};

/**
 * Frames the whole asset, told by places on it, when it arrives and when asked to; takes the places and the
 * lens that are asked for. `share` is how much of the picture's width it has.
 */
export function useCamera(outline: readonly Vector3[] | null, share = 1): void {
  const { camera, controls, size, invalidate } = useThree();
  const focal = useChoices((choices) => choices.view.focal);
  const framed = useRef<readonly Vector3[] | null>(null);
  const lastFocal = useRef(focal);
  useEffect(() => {
    const orbit = controls as OrbitControls | null;
    if (!outline || outline.length === 0 || !orbit) return;
    const lens = camera as PerspectiveCamera;
    lens.fov = (2 * Math.atan(FRAME_HEIGHT / 2 / focal) * 180) / Math.PI;
    const frame = (direction: Vector3) => {
      const { target, distance } = fitCamera(outline, direction, {
        tangent: FRAME_HEIGHT / 2 / focal,
        aspect: (size.width / size.height) * share,
      });
      const far = outline.reduce((most, point) => Math.max(most, point.distanceTo(target)), 0);
      if (!(far > 0)) return;
      lens.near = distance / 200;
      lens.far = (distance + far) * 20;
      lens.position.copy(target).addScaledVector(direction, distance);
      lens.updateProjectionMatrix();
      orbit.target.copy(target);
      orbit.update();
      invalidate();
    };
    if (framed.current !== outline || lastFocal.current !== focal) {
      const direction =
        framed.current === outline
          ? lens.position.clone().sub(orbit.target).normalize()
          : new Vector3(...PRESETS.corner).normalize();
      framed.current = outline;
      lastFocal.current = focal;
      frame(direction);
    }
    const stop = [
      onFrameAll(() => frame(lens.position.clone().sub(orbit.target).normalize())),
      onPreset((preset) => frame(new Vector3(...PRESETS[preset]).normalize())),
    ];
    return () => stop.forEach((end) => end());
  }, [outline, share, camera, controls, size, focal, invalidate]);
}
