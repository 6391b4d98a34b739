import type { LightKind, SceneDocument } from './document.ts';

/** Lights that a format has a word for. */
export function carriesLight(format: SceneDocument['format'], kind: LightKind): boolean {
  if (format === 'obj') return false;
  if (format === 'gltf') return kind !== 'dome' && kind !== 'area';
  return format === 'usd' || kind !== 'dome';
}
