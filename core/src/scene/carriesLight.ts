import type { LightKind, SceneDocument } from './document.ts';
import type { Loss } from './loss.ts';

/** Lights that a format has a word for. */
export function carriesLight(format: SceneDocument['format'], kind: LightKind): boolean {
  if (format === 'obj') return false;
  if (format === 'gltf') return kind !== 'dome' && kind !== 'area';
  return format === 'usd' || kind !== 'dome';
}

/** Lights that fade otherwise than by the square of the distance, as they do in all formats but FBX. */
export function otherFading({ nodes, lights }: SceneDocument): Loss[] {
  return nodes.flatMap(({ name, light }): Loss[] =>
    lights[light]?.fading ? [{ code: 'light.fading', part: name }] : [],
  );
}
