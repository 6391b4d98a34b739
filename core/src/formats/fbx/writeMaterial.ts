import type { ChannelName, MapUse, Material, Rgb } from '../../scene/material.ts';
import { colourValue } from '../../scene/material.ts';
import { exponentOfMaterial, reflectanceOfIndex } from '../../scene/shading.ts';
import {
  colourEntry,
  D,
  doubleEntry,
  entry,
  enumEntry,
  I,
  numberEntry,
  object,
  properties70,
  R,
  record,
  S,
  textEntry,
  vectorEntry,
} from './records.ts';
import type { FbxNode } from './tree.ts';
import { NAME_SEPARATOR } from './tree.ts';

/** Prefix of the block of physically based properties; readers go by the last part of each name. */
const BLOCK = 'Kinkajou|pbr|';

/** Classic property that a map of a channel is linked to. */
const CLASSIC: Partial<Record<ChannelName, string>> = {
  baseColor: 'DiffuseColor',
  specularColor: 'SpecularColor',
  specular: 'SpecularFactor',
  glossiness: 'ShininessExponent',
  normal: 'NormalMap',
  bump: 'Bump',
  emission: 'EmissiveColor',
  opacity: 'TransparentColor',
  height: 'DisplacementColor',
};

const BLOCK_NAMES: Record<ChannelName, string> = {
  baseColor: 'base_color',
  metalness: 'metalness',
  roughness: 'roughness',
  normal: 'normal',
  occlusion: 'occlusion',
  emission: 'emission',
  opacity: 'opacity',
  height: 'displacement',
  bump: 'bump',
  glossiness: 'glossiness',
  specular: 'specular_level',
  specularColor: 'specular_color',
  ior: 'ior',
  transmission: 'transmission',
  coat: 'coat',
  coatRoughness: 'coat_roughness',
  sheenColor: 'sheen_color',
  subsurface: 'subsurface',
};

/** The property that a channel's map is linked to: classic where there is one, else in the block. */
export function mapProperty(material: Material, channel: ChannelName): string {
  const classic = CLASSIC[channel];
  if (
    classic &&
    (material.workflow === 'legacy' ||
      channel === 'baseColor' ||
      channel === 'normal' ||
      channel === 'emission' ||
      channel === 'bump')
  )
    return classic;
  return `${BLOCK}${BLOCK_NAMES[channel]}_map`;
}

/**
 * The Material record: classic properties for every reader, and a block of modern ones where the workflow is
 * modern.
 */
export function materialRecord(material: Material, id: number): FbxNode {
  const { channels } = material;
  const colour = (channel: ChannelName, fallback: Rgb) => colourValue(channels[channel]?.value ?? fallback);
  const opacity = scalar(channels.opacity?.value ?? 1);
  const weight = channels.specular && !channels.specular.map ? scalar(channels.specular.value) : 1;
  const reflectance = reflectanceOfIndex(scalar(channels.ior?.value ?? 1.5)) * weight;
  const entries = [
    colourEntry('DiffuseColor', colour('baseColor', [1, 1, 1])),
    numberEntry('DiffuseFactor', 1),
    colourEntry('EmissiveColor', colour('emission', [0, 0, 0])),
    numberEntry('EmissiveFactor', 1),
    colourEntry('SpecularColor', highlight(material, reflectance)),
    numberEntry('SpecularFactor', highlightStrength(material)),
    numberEntry('ShininessExponent', exponentOfMaterial(material)),
    colourEntry('TransparentColor', [1, 1, 1]),
    numberEntry('TransparencyFactor', 1 - opacity),
    doubleEntry('Opacity', opacity),
    ...(channels.bump ? [doubleEntry('BumpFactor', scalar(channels.bump.value))] : []),
    ...(channels.height ? [doubleEntry('DisplacementFactor', scalar(channels.height.value))] : []),
  ];
  if (material.workflow !== 'legacy') entries.push(...blockEntries(material));
  return object('Material', id, { name: material.name }, [
    record('Version', [I(102)]),
    record('ShadingModel', [S('phong')]),
    record('MultiLayer', [I(0)]),
    properties70(entries),
  ]);
}

function blockEntries(material: Material): FbxNode[] {
  const written: ChannelName[] = [
    'baseColor',
    'metalness',
    'roughness',
    'glossiness',
    'specularColor',
    'specular',
    'ior',
    'transmission',
    'coat',
  ];
  written.push('coatRoughness', 'sheenColor', 'subsurface', 'emission', 'occlusion', 'opacity');
  const entries: FbxNode[] = [];
  for (const channel of written) {
    const value = material.channels[channel]?.value;
    if (value === undefined) continue;
    const name = BLOCK + BLOCK_NAMES[channel];
    if (typeof value === 'number') entries.push(entry(name, ['Float', '', 'A'], D(value)));
    else entries.push(entry(name, ['ColorAndAlpha', '', 'A'], ...value.map(D), D(1)));
  }
  return entries;
}

/** A classic highlight has the strength of `specular` where there is no specular colour. */
function highlight({ channels, workflow }: Material, reflectance: number): Rgb {
  const { specularColor } = channels;
  if (workflow === 'metalRough') {
    const tint = specularColor && !specularColor.map ? colourValue(specularColor.value) : [1, 1, 1];
    return tint.map((component) => Math.min(1, component * reflectance)) as Rgb;
  }
  if (specularColor) return colourValue(specularColor.value);
  if (workflow === 'specGloss') return [reflectance, reflectance, reflectance];
  return channels.specular ? [1, 1, 1] : [0, 0, 0];
}

function highlightStrength({ channels: { specular, specularColor }, workflow }: Material): number {
  return workflow === 'legacy' && specular && !specular.map && !specularColor ? scalar(specular.value) : 1;
}

/**
 * A Texture object: where it takes its UV set, how it repeats, and its placement. What it is connected to
 * says which channel it feeds.
 */
export function textureRecord(id: number, name: string, use: MapUse, path: string): FbxNode {
  const { transform, uvSet, wrap } = use;
  const entries = [
    textEntry('UVSet', uvSet ?? 'default'),
    enumEntry('WrapModeU', wrap[0] === 'clamp' ? 1 : 0),
    enumEntry('WrapModeV', wrap[1] === 'clamp' ? 1 : 0),
    entry('UseMaterial', ['bool', '', ''], I(1)),
  ];
  if (transform) {
    entries.push(
      vectorEntry('Translation', [...transform.offset, 0]),
      vectorEntry('Scaling', [...transform.scale, 1]),
    );
    entries.push(vectorEntry('Rotation', [0, 0, (transform.rotation * 180) / Math.PI]));
  }
  return object('Texture', id, { name }, [
    record('Type', [S('TextureVideoClip')]),
    record('Version', [I(202)]),
    record('TextureName', [S(`${name}${NAME_SEPARATOR}Texture`)]),
    properties70(entries),
    record('Media', [S(`${name}${NAME_SEPARATOR}Video`)]),
    record('FileName', [S(path)]),
    record('RelativeFilename', [S(path)]),
    record('ModelUVTranslation', [D(transform?.offset[0] ?? 0), D(transform?.offset[1] ?? 0)]),
    record('ModelUVScaling', [D(transform?.scale[0] ?? 1), D(transform?.scale[1] ?? 1)]),
    record('Texture_Alpha_Source', [S('None')]),
    record('Cropping', [I(0), I(0), I(0), I(0)]),
  ]);
}

/** A Video object: the image file that textures show, with its bytes when they are embedded. */
export function videoRecord(id: number, name: string, path: string, content: Uint8Array | null): FbxNode {
  return object('Video', id, { name, subclass: 'Clip' }, [
    record('Type', [S('Clip')]),
    properties70([entry('Path', ['KString', 'XRefUrl', ''], S(path))]),
    record('UseMipMap', [I(0)]),
    record('Filename', [S(path)]),
    record('RelativeFilename', [S(path)]),
    ...(content ? [record('Content', [R(content)])] : []),
  ]);
}

function scalar(value: number | Rgb): number {
  return typeof value === 'number' ? value : (value[0] + value[1] + value[2]) / 3;
}
