'use client';

import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import { type PerspectiveCamera, type Sphere, Vector3 } from 'three';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { useChoices } from '@/ui/choices';
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

/** Frames the whole asset when it arrives and when asked to; takes the places and the lens that are asked for. */
export function useCamera(sphere: Sphere | null): void {
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
