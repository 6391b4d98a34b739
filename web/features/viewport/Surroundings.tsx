'use client';

import { useThree } from '@react-three/fiber';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { ACESFilmicToneMapping, Color, LinearToneMapping, NeutralToneMapping } from 'three';
import { useChoices } from '@/ui/choices';
import { PLAIN_BACKDROPS } from './backdrops.ts';
import { type Environment, loadEnvironment } from './environments.ts';
import { fittedStops } from './fitted.ts';
import { useStage } from './stage.ts';

const TRANSFORMS = { plain: LinearToneMapping, neutral: NeutralToneMapping, aces: ACESFilmicToneMapping };

/**
 * Light from all around, its turn and strength, what lies behind the object, exposure and the view's
 * transform.
 */
export function Surroundings() {
  const { gl, scene, invalidate } = useThree();
  const { turn, exposure, environment, environmentOn, strength, backdrop, transform, mode, fitted, lamps } =
    useChoices((choices) => choices.view);
  const [loaded, setLoaded] = useState<Environment | null>(null);
  useEffect(() => {
    let current: Environment | null = null;
    let required = true;
    loadEnvironment(gl, environment)
      .then((made) => {
        if (!required) return made.dispose();
        current = made;
        setLoaded(made);
        useStage.setState({ sky: made.sharp });
      })
      .catch((error: Error) => toast.error(`The environment cannot be read: ${error.message}`));
    return () => {
      required = false;
      current?.dispose();
      setLoaded(null);
      useStage.setState({ sky: null });
    };
  }, [gl, environment]);
  useEffect(() => {
    const lit = mode === 'lit';
    scene.environment = environmentOn ? (loaded?.lighting ?? null) : null;
    scene.environmentIntensity = strength;
    const angle = (turn * Math.PI) / 180;
    scene.environmentRotation.set(0, angle, 0);
    if (lit && backdrop === 'surroundings' && loaded) {
      scene.background = loaded.lighting;
      scene.backgroundRotation.set(0, angle, 0);
      scene.backgroundIntensity = strength;
      scene.backgroundBlurriness = 0.12;
    } else
      scene.background =
        backdrop === 'grey' || backdrop === 'dark' ? new Color(PLAIN_BACKDROPS[backdrop]) : null;
    gl.toneMapping = TRANSFORMS[transform];
    const around = environmentOn && loaded ? loaded.mean * strength : 0;
    const isKnown = loaded !== null || !environmentOn;
    gl.toneMappingExposure =
      2 ** (exposure + (fitted && isKnown ? fittedStops({ environment: around, lamps }) : 0));
    invalidate();
  }, [
    loaded,
    turn,
    exposure,
    environmentOn,
    strength,
    backdrop,
    transform,
    mode,
    fitted,
    lamps,
    gl,
    scene,
    invalidate,
  ]);
  return null;
}
