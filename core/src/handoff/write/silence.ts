import type { SceneDocument } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { type ChannelName, defaultSpace, type Material } from '../../scene/material.ts';

/** Formats whose words leave open how an image is read and how a material shows. */
const SILENT: Partial<Record<SceneDocument['format'], string>> = { fbx: 'FBX', obj: 'MTL' };

/**
 * What a written document means and its format has no words for: texels that are taken one by one, spaces
 * that are not the usual ones of their channels, the direction of normals, alpha and sides; of OBJ unit and
 * axes too. The sheet for the receiver tells it.
 */
export function silenceOf(
  format: SceneDocument['format'],
  { materials, metresPerUnit, axes }: Pick<SceneDocument, 'materials' | 'metresPerUnit' | 'axes'>,
): Loss[] {
  const losses = filterLosses(materials, format);
  const detail = SILENT[format];
  if (!detail) return losses;
  losses.push(...materials.flatMap((material) => silenceOfMaterial(material, detail)));
  if (format === 'obj' && (metresPerUnit !== 1 || axes.up.axis !== 1))
    losses.push({ code: 'format.unit', detail: 'OBJ' });
  return losses;
}

/** Maps whose texels are taken one by one, where the format has no word for that. */
function filterLosses(materials: readonly Material[], format: SceneDocument['format']): Loss[] {
  if (format === 'gltf') return [];
  const detail = SILENT[format] ?? 'UsdPreviewSurface';
  return materials.flatMap(({ key: material, channels }) =>
    Object.entries(channels).flatMap(([channel, { map }]): Loss[] =>
      map?.filter === 'nearest'
        ? [{ code: 'format.filter', material, channel: channel as ChannelName, detail }]
        : [],
    ),
  );
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
