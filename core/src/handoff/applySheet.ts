import type { AssetImage } from '../asset/asset.ts';
import { type Channel, createMapUse, type Material, type Provenance, unitValue } from '../scene/material.ts';
import type { Sheet, SheetMaterial } from './sheet.ts';

const ORIGIN: Provenance = { from: 'file', detail: 'the sheet for the receiver' };

/**
 * The materials of a package as its receiver reads them: what the model file says, and what the sheet tells besides
 * (which component, which colour space, which way a normal points, how glass and cut-outs are declared). Materials that
 * the sheet does not know stay as they are.
 */
export function applySheet(materials: readonly Material[], images: readonly AssetImage[], sheet: Sheet): Material[] {
  const byName = new Map(sheet.materials.flatMap((told) => [told.name, ...told.copies].map((name) => [name, told])));
  const keys = new Map(images.map(({ key, written }) => [bareName(written), key]));
  return materials.map((material) => {
    const told = byName.get(material.name);
    return told ? readMaterial(material, told, sheet, keys) : material;
  });
}

function readMaterial(material: Material, told: SheetMaterial, { normalY, metresPerUnit }: Sheet, keys: ReadonlyMap<string, string>): Material {
  const channels = { ...material.channels };
  for (const { file, space, channels: feeds, palette } of told.maps) {
    const key = keys.get(bareName(file));
    if (key === undefined) continue;
    for (const { channel, component, inverted } of feeds) {
      const known = channels[channel];
      const use = known?.map?.image === key ? known.map : createMapUse(key, channel);
      const value = known?.map?.image === key ? known.value : (told.values[channel] ?? unitValue(channel));
      const map = {
        ...use,
        component,
        space,
        invert: inverted,
        ...(channel === 'normal' ? { normalY } : {}),
        ...(palette ? { filter: 'nearest' as const } : {}),
      };
      channels[channel] = { value, map, source: ORIGIN };
    }
  }
  if (told.height && channels.height?.map) channels.height = asHeight(channels.height, told.height, metresPerUnit);
  const { mode, cutoff } = told.alpha;
  return { ...material, channels, workflow: told.shading, alphaMode: mode, alphaCutoff: cutoff, doubleSided: told.doubleSided };
}

/** Amounts told in the model's unit stand for what the file may have said otherwise. */
function asHeight(channel: Channel, { amount, unit, mid }: NonNullable<SheetMaterial['height']>, metresPerUnit: number): Channel {
  if (!channel.map || unit.startsWith('of ')) return channel;
  return { ...channel, value: unit === 'm' ? amount / metresPerUnit : amount, map: { ...channel.map, gain: 1, offset: mid === 0 ? 0 : -mid } };
}

function bareName(path: string): string {
  return path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
}
