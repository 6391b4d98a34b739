import type { SceneDocument } from '../../scene/document.ts';
import { asLine } from '../../scene/mapUse.ts';
import {
  type ChannelName,
  type Component,
  colourValue,
  type MapUse,
  type Material,
  type Rgb,
  saysMore,
} from '../../scene/material.ts';
import { exponentOfMaterial, flooredRoughness } from '../../scene/shading.ts';
import type { Losses, TargetOf } from '../written.ts';
import { numberText, oneLine } from './objWords.ts';

const MAP_WORDS: Partial<Record<ChannelName, string>> = {
  baseColor: 'map_Kd',
  specularColor: 'map_Ks',
  emission: 'map_Ke',
  glossiness: 'map_Ns',
  opacity: 'map_d',
  roughness: 'map_Pr',
  metalness: 'map_Pm',
  sheenColor: 'map_Ps',
  coat: 'map_Pc',
  coatRoughness: 'map_Pcr',
  bump: 'map_Bump',
  normal: 'norm',
  height: 'disp',
  occlusion: 'map_ao',
};
/** Channels whose value MTL cannot say. */
const UNSAID: ReadonlySet<ChannelName> = new Set(['transmission', 'subsurface', 'specular']);
const IMF: Record<Component, string | null> = { rgb: null, r: 'r', g: 'g', b: 'b', a: 'm', luminance: 'l' };

/** The material library: classic words for every reader, the PBR words where the workflow is modern. */
export function writeMtl(document: SceneDocument, targetOf: TargetOf, losses: Losses): Uint8Array {
  const paths = new Map(document.images.map((image) => [image.key, targetOf(image).path]));
  const lines: string[] = [];
  const words = materialWords(document.materials);
  for (const material of document.materials)
    lines.push(`newmtl ${words.get(material.key)}`, ...materialLines(material, paths, losses), '');
  return new TextEncoder().encode(`${lines.join('\n')}\n`);
}

function materialLines(material: Material, paths: Map<string, string>, losses: Losses): string[] {
  const { channels, workflow } = material;
  const lines: string[] = [];
  const colour = (word: string, channel: ChannelName) => {
    const value = channels[channel]?.value;
    if (value !== undefined) lines.push(`${word} ${colourValue(value).map(numberText).join(' ')}`);
  };
  const number = (word: string, channel: ChannelName) => {
    const value = channels[channel]?.value;
    if (value !== undefined) lines.push(`${word} ${numberText(scalar(value))}`);
  };
  colour('Kd', 'baseColor');
  // Beside metalness it is the tint of what reflects, which MTL has no word for.
  if (workflow !== 'metalRough') colour('Ks', 'specularColor');
  colour('Ke', 'emission');
  if (material.exponent !== null || channels.roughness || channels.glossiness)
    lines.push(`Ns ${numberText(exponentOfMaterial(material))}`);
  number('Ni', 'ior');
  number('d', 'opacity');
  if (workflow !== 'legacy') {
    number('Pr', 'roughness');
    number('Pm', 'metalness');
    colour('Ps', 'sheenColor');
    number('Pc', 'coat');
    number('Pcr', 'coatRoughness');
  }
  lines.push(`illum ${scalar(channels.opacity?.value ?? 1) < 1 ? 4 : 2}`);
  const floor = workflow !== 'legacy' && channels.roughness ? null : flooredRoughness(material);
  if (floor !== null)
    losses.add({ code: 'value.floor', material: material.key, channel: 'roughness', detail: String(floor) });
  for (const [name, channel] of Object.entries(channels)) {
    if (!channel.map) {
      const isUnsaid =
        UNSAID.has(name as ChannelName) || (name === 'specularColor' && workflow === 'metalRough');
      const unsaid = isUnsaid && saysMore(name as ChannelName, channel.value);
      if (unsaid && workflow !== 'legacy')
        losses.add({ code: 'mtl.noWord', material: material.key, channel: name as ChannelName });
      continue;
    }
    const word = MAP_WORDS[name as ChannelName];
    const path = paths.get(channel.map.image);
    if (!word || path === undefined)
      losses.add({ code: 'mtl.noMapWord', material: material.key, channel: name as ChannelName });
    else {
      lines.push([word, ...options(channel.map, name as ChannelName, channel.value), path].join(' '));
      for (const detail of unsaidPlacing(channel.map))
        losses.add({ code: 'mtl.placing', material: material.key, channel: name as ChannelName, detail });
    }
  }
  return lines;
}

/**
 * By what each material is called in the library and in the model: its name, or its key where names repeat.
 */
export function materialWords(materials: readonly Material[]): Map<string, string> {
  const counts = new Map<string, number>();
  for (const { name } of materials) counts.set(oneLine(name), (counts.get(oneLine(name)) ?? 0) + 1);
  return new Map(
    materials.map(({ key, name }) => [key, oneLine(counts.get(oneLine(name)) === 1 ? name : key)]),
  );
}

/**
 * How an image lies and is read that MTL cannot say: the turn, mirrored or one-sided wrapping, all UV sets but
 * the first, and vectors stored in another range.
 */
function unsaidPlacing({ transform, wrap, uvSet, range }: MapUse): string[] {
  const both = wrap[0] === wrap[1] && wrap[0] !== 'mirror';
  return [
    transform && transform.rotation !== 0 && 'the turn',
    !both && 'the wrapping',
    uvSet !== null && 'the UV set',
    range && 'the range',
  ].filter((word): word is string => typeof word === 'string');
}

/** Component, tiling, clamping, amount and range of a map as MTL options. */
function options(use: MapUse, channel: ChannelName, value: number | Rgb): string[] {
  const out: string[] = [];
  const component = IMF[use.component];
  const usual = channel === 'opacity' ? 'a' : 'r';
  if (component && !(use.component === usual && channel !== 'opacity')) out.push('-imfchan', component);
  // Both may leave numbers out, but there are readers that always take three.
  if (use.transform) {
    const { offset, scale } = use.transform;
    out.push('-o', ...[...offset, 0].map(numberText), '-s', ...[...scale, 1].map(numberText));
  }
  if (use.wrap[0] === 'clamp' && use.wrap[1] === 'clamp') out.push('-clamp', 'on');
  if ((channel === 'bump' || channel === 'height') && scalar(value) !== 1)
    out.push('-bm', numberText(scalar(value)));
  if (channel === 'normal' && (use.strength ?? 1) !== 1) out.push('-bm', numberText(use.strength ?? 1));
  const { gain, offset: base } = asLine(use);
  if (base !== 0 || gain !== 1) out.push('-mm', numberText(base), numberText(gain));
  return out;
}

function scalar(value: number | Rgb): number {
  return typeof value === 'number' ? value : (value[0] + value[1] + value[2]) / 3;
}
