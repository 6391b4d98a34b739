import type { Lamp, LampName } from '@/ui/choices';
import { LAMP_STANDS } from './lampStands.ts';

/**
 * The light that falls on a grey surface: the mean of what is around it, and half of what each lamp gives.
 */
export interface LightAround {
  /** Mean radiance of the environment; 0 where it is off. */
  environment: number;
  lamps: Record<LampName, Lamp>;
}

/**
 * A grey surface in the studio under its key light is what others are fitted to: the studio's mean, and half
 * of the lamp.
 */
const STUDIO_LIGHT = Math.PI * 0.744 + LAMP_STANDS.key.light / 2;
const MOST_STOPS = 8;

/** Stops by which a light must be exposed so that a surface is as bright in it as in the studio. */
export function fittedStops({ environment, lamps }: LightAround): number {
  const names = Object.keys(LAMP_STANDS) as LampName[];
  const fromLamps = names.reduce(
    (sum, name) => sum + (lamps[name].on ? (LAMP_STANDS[name].light * lamps[name].strength) / 2 : 0),
    0,
  );
  const total = Math.PI * environment + fromLamps;
  if (!(total > 0)) return 0;
  const stops = Math.log2(STUDIO_LIGHT / total);
  return Math.round(Math.min(MOST_STOPS, Math.max(-MOST_STOPS, stops)) * 100) / 100;
}
