import type { SceneDocument } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { type ChannelName, defaultSpace, type Material } from '../../scene/material.ts';

/** Formats whose words leave open how an image is read and how a material shows. */
const SILENT: Partial<Record<SceneDocument['format'], string>> = { fbx: 'FBX', obj: 'MTL' };

/**
 * What a written document means and its format has no words for: spaces that are not the usual ones of their
 * channels, the direction of normals, alpha and sides; of OBJ unit and axes too. The sheet for the receiver
 * tells it.
 */
export function silenceOf(
  format: SceneDocument['format'],
  { materials, metresPerUnit, axes }: Pick<SceneDocument, 'materials' | 'metresPerUnit' | 'axes'>,
): Loss[] {
  const detail = SILENT[format];
  if (!detail) return [];
  const losses: Loss[] = materials.flatMap((material) => silenceOfMaterial(material, detail));
  if (format === 'obj' && (metresPerUnit !== 1 || axes.up.axis !== 1))
    losses.push({ code: 'format.unit', detail: 'OBJ' });
  return losses;
}

function silenceOfMaterial(
  { key: material, channels, alphaMode, doubleSided }: Material,
  detail: string,
): Loss[] {
  const losses: Loss[] = [];
  for (const [name, { map }] of Object.entries(channels)) {
    const channel = name as ChannelName;
    if (!map) continue;
    if (map.space !== defaultSpace(channel)) losses.push({ code: 'format.space', material, channel, detail });
    if (channel === 'height') losses.push({ code: 'format.height', material, channel, detail });
    if (channel === 'normal' && map.normalY === 'Y-')
      losses.push({ code: 'format.direction', material, channel, detail });
  }
  if (alphaMode !== 'opaque') losses.push({ code: 'format.alpha', material, detail });
  if (doubleSided) losses.push({ code: 'format.sides', material, detail });
  return losses;
}
