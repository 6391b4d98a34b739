'use client';

import { useThree } from '@react-three/fiber';
import { useEffect } from 'react';
import { useChoices } from '@/ui/choices';
import { softStudio } from './environment.ts';

/** Light from the studio, its turn and the exposure. */
export function Surroundings() {
  const { gl, scene, invalidate } = useThree();
  const { turn, exposure } = useChoices((choices) => choices.view);
  useEffect(() => {
    const studio = softStudio(gl);
    scene.environment = studio;
    invalidate();
    return () => {
      scene.environment = null;
      studio.dispose();
    };
  }, [gl, scene, invalidate]);
  useEffect(() => {
    scene.environmentRotation.set(0, (turn * Math.PI) / 180, 0);
    gl.toneMappingExposure = 2 ** exposure;
    invalidate();
  }, [turn, exposure, gl, scene, invalidate]);
  return null;
}
