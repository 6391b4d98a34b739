import type { LampName } from '@/ui/choices';

/** How high each lamp stands, in degrees, its light at strength 1, and its tint. */
export const LAMP_STANDS: Record<LampName, { height: number; light: number; tint: string }> = {
  key: { height: 48, light: 1.6, tint: '#fff3df' },
  fill: { height: 18, light: 1.6, tint: '#e8f0ff' },
  rim: { height: 32, light: 2.4, tint: '#ffffff' },
};
