import { own } from '../../own.ts';
import { addRemark, type Remark } from '../../scene/document.ts';
import { putHighlightAside } from '../../scene/highlight.ts';
import {
  type ChannelName,
  COLOUR_SPACES,
  type ColourSpace,
  type Component,
  createMapUse,
  createMaterial,
  type ImageEntry,
  type MapUse,
  type Material,
  type Rgb,
  unitValue,
  type Workflow,
} from '../../scene/material.ts';
import type { MtlMaterial, MtlStatement } from './parseMtl.ts';

const COLOURS: Record<string, ChannelName> = { kd: 'baseColor', ks: 'specularColor', ke: 'emission' };
const SCALARS: Record<string, ChannelName> = {
  pr: 'roughness',
  pm: 'metalness',
  ps: 'sheenColor',
  pc: 'coat',
  pcr: 'coatRoughness',
  ni: 'ior',
};
const MAPS: Record<string, ChannelName> = {
  map_kd: 'baseColor',
  map_ks: 'specularColor',
  map_ke: 'emission',
  map_ns: 'glossiness',
  map_d: 'opacity',
  map_tr: 'opacity',
  map_pr: 'roughness',
  map_pm: 'metalness',
  map_ps: 'sheenColor',
  map_pc: 'coat',
  map_pcr: 'coatRoughness',
  map_bump: 'bump',
  bump: 'bump',
  norm: 'normal',
  map_norm: 'normal',
  disp: 'height',
  map_disp: 'height',
  map_ao: 'occlusion',
};
const IMF_COMPONENTS: Record<string, Component> = { r: 'r', g: 'g', b: 'b', m: 'a', l: 'luminance' };

/** Where images named by materials are collected, one entry per written path. */
export type AddImage = (written: string) => ImageEntry;

/**
 * The shading model that the statements speak of: metal/rough by its own words, spec/gloss by images of
 * specular colour and gloss, classic by one of specular colour alone, or beside modern words that say nothing of
 * metalness; a tangent-space normal without any of these is a modern exporter's.
 */
function workflowOf({ statements }: MtlMaterial): Workflow {
  const has = (pattern: RegExp) => statements.some(({ keyword }) => pattern.test(keyword));
  const painted = has(/^map_ks$/i);
  if (has(/^(map_)?(pr|ps|pc|pcr)$/i) && !painted) return 'metalRough';
  if (has(/^(map_)?pm$/i)) return 'metalRough';
  if (painted) return has(/^map_ns$/i) ? 'specGloss' : 'legacy';
  return has(/^(map_)?norm$/i) ? 'metalRough' : 'legacy';
}

/** Indices of refraction are 0.001 and more; some programs write 0 where they have none. */
const LEAST_INDEX = 0.001;

/** Turns one MTL material into a neutral one. What it cannot place goes to `extras` and the remarks. */
export function toMaterial(source: MtlMaterial, addImage: AddImage, remarks: Remark[]): Material {
  const material = createMaterial(source.name, workflowOf(source));
  const written: { d?: number; tr?: number } = {};
  for (const statement of source.statements) {
    const word = statement.keyword.toLowerCase();
    const from = `line ${statement.line}: ${statement.keyword}`;
    const [colour, scalar, map] = [own(COLOURS, word), own(SCALARS, word), own(MAPS, word)];
    if (colour) setValue(material, colour, readColour(statement.rest), from);
    else if (word === 'ps') setValue(material, 'sheenColor', readColour(statement.rest), from);
    else if (scalar && !(scalar === 'ior' && readNumber(statement.rest) < LEAST_INDEX))
      setValue(material, scalar, readNumber(statement.rest), from);
    else if (map) setMap(material, map, { statement, from }, addImage);
    else if (word === 'ns') material.exponent = readNumber(statement.rest);
    else if (word === 'd') written.d = readNumber(statement.rest.replace(/^-halo\s+/i, ''));
    else if (word === 'tr') written.tr = readNumber(statement.rest);
    else {
      material.extras[statement.keyword] = statement.rest;
      if (/^(map_|decal|refl)/.test(word)) {
        addRemark(remarks, {
          code: 'read.notCarried',
          severity: 'note',
          subject: statement.keyword,
          message: `maps of kind ${statement.keyword} have no channel here and are kept as text only`,
        });
      }
    }
  }
  resolveOpacity(material, written, remarks);
  if (material.workflow === 'metalRough') putHighlightAside(material);
  return material;
}

function channelOf(material: Material, channel: ChannelName, from: string) {
  material.channels[channel] ??= {
    value: unitValue(channel),
    map: null,
    source: { from: 'file', detail: from },
  };
  return material.channels[channel];
}

function setValue(material: Material, channel: ChannelName, value: number | Rgb, from: string): void {
  channelOf(material, channel, from).value = value;
}

interface MapStatement {
  statement: MtlStatement;
  /** The line and its keyword, for the person. */
  from: string;
}

function setMap(
  material: Material,
  channel: ChannelName,
  { statement, from }: MapStatement,
  addImage: AddImage,
) {
  if (!statement.rest) return;
  const target = channelOf(material, channel, from);
  target.source = { from: 'file', detail: from };
  target.map = createMapUse(addImage(statement.rest).key, channel, mapOptions(statement));
  if (statement.keyword.toLowerCase() === 'map_tr') target.map.invert = true;
  const amount = Number(statement.options.get('-bm')?.[0]);
  if ((channel === 'bump' || channel === 'height') && Number.isFinite(amount)) target.value = amount;
  if (channel === 'normal' && Number.isFinite(amount) && amount !== 1) target.map.strength = amount;
  for (const [option, values] of statement.options) {
    if (!HANDLED_OPTIONS.has(option)) material.extras[`${statement.keyword} ${option}`] = values.join(' ');
  }
}

/** Words of `-colorspace`, an extension that some exporters write. */
const COLOUR_SPACE_WORDS: Record<string, ColourSpace> = {
  srgb: 'srgb_rec709_scene',
  linear: 'lin_rec709_scene',
  lin_rec709: 'lin_rec709_scene',
  raw: 'data',
  acescg: 'lin_ap1_scene',
};

const HANDLED_OPTIONS = new Set(['-colorspace', '-bm', '-o', '-s', '-mm', '-clamp', '-imfchan']);

function mapOptions({ options }: MtlStatement): Partial<MapUse> {
  const out: Partial<MapUse> = {};
  const numbers = (name: string, fallback: number) =>
    [0, 1].map((i) => {
      const value = Number(options.get(name)?.[i] ?? fallback);
      return Number.isFinite(value) ? value : fallback;
    }) as [number, number];
  if (options.has('-o') || options.has('-s')) {
    out.transform = { offset: numbers('-o', 0), scale: numbers('-s', 1), rotation: 0 };
  }
  if (options.has('-mm')) {
    const [base, gain] = options.get('-mm')?.map(Number) ?? [];
    // 1 - x is said as an inversion, as every other format's reader does.
    if (base === 1 && gain === -1) out.invert = true;
    else if (Number.isFinite(base) && Number.isFinite(gain)) Object.assign(out, { offset: base, gain });
  }
  if (options.get('-clamp')?.[0]?.toLowerCase() === 'on') out.wrap = ['clamp', 'clamp'];
  const word = options.get('-colorspace')?.[0]?.toLowerCase();
  const stated = word && (own(COLOUR_SPACE_WORDS, word) ?? COLOUR_SPACES.find((space) => space === word));
  if (stated) out.space = stated;
  else out.spaceFrom = 'unstated';
  const component = IMF_COMPONENTS[options.get('-imfchan')?.[0]?.toLowerCase() ?? ''];
  if (component) out.component = component;
  return out;
}

/**
 * `d` is opacity and `Tr` its opposite, and exporters mix them up. Taken as written: `d` where it stands,
 * else 1 - Tr. A file that says both and contradicts itself is remarked on.
 */
function resolveOpacity(material: Material, { d, tr }: { d?: number; tr?: number }, remarks: Remark[]): void {
  if (tr !== undefined) material.extras.Tr = String(tr);
  if (d !== undefined) material.extras.d = String(d);
  const opacity = d ?? (tr === undefined ? undefined : 1 - tr);
  if (opacity !== undefined && opacity !== 1) {
    setValue(material, 'opacity', opacity, d !== undefined ? 'd' : '1 - Tr');
  }
  if (d !== undefined && tr !== undefined && Math.abs(d + tr - 1) > 1e-3) {
    addRemark(remarks, {
      code: 'read.opacityContradiction',
      // Fully there is what is nearly always meant, and what was taken.
      severity: d === 1 ? 'note' : 'warning',
      subject: material.name,
      message: `d is ${d} and Tr is ${tr}, which cannot both hold; d was taken`,
    });
  }
  if (material.channels.opacity) material.alphaMode = 'blend';
}

function readNumber(text: string): number {
  const value = Number.parseFloat(text);
  return Number.isFinite(value) ? value : 0;
}

function readColour(text: string): Rgb {
  const numbers = text.split(/\s+/).map(Number).filter(Number.isFinite);
  const [r = 0, g = r, b = r] = numbers;
  return [r, g, b];
}
