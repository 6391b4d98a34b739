import { own } from '../../own.ts';
import { meaningOfWord, splitWords, type WordMeaning } from '../../scene/channelWords.ts';
import { addRemark, type Remark } from '../../scene/document.ts';
import { putHighlightAside } from '../../scene/highlight.ts';
import {
  CHANNELS,
  type ChannelName,
  createMapUse,
  createMaterial,
  type ImageEntry,
  type MapUse,
  type Material,
  type Rgb,
  unitValue,
  VECTOR_CHANNELS,
} from '../../scene/material.ts';
import type { FbxLink, FbxObject, ObjectTable, PropertyTable } from './objects.ts';
import { childOf, type FbxNode, textAt } from './tree.ts';

/** Classic properties and the channel that a texture linked to them feeds. */
const CLASSIC_MAPS: Record<string, ChannelName> = {
  DiffuseColor: 'baseColor',
  Diffuse: 'baseColor',
  SpecularColor: 'specularColor',
  SpecularFactor: 'specular',
  ShininessExponent: 'glossiness',
  Shininess: 'glossiness',
  NormalMap: 'normal',
  Bump: 'bump',
  BumpFactor: 'bump',
  EmissiveColor: 'emission',
  Emissive: 'emission',
  EmissiveFactor: 'emission',
  TransparentColor: 'opacity',
  TransparencyFactor: 'opacity',
  Opacity: 'opacity',
  DisplacementColor: 'height',
};

/** Collects images, one entry per written path. */
export type AddImage = (image: Omit<ImageEntry, 'key'>) => ImageEntry;

/**
 * Reads one material: classic properties, then vendor property blocks, then the textures linked to either.
 */
export function readFbxMaterial(
  object: FbxObject,
  table: ObjectTable,
  addImage: AddImage,
  remarks: Remark[],
): Material {
  const { properties } = object;
  const vendor = properties.names().filter((name) => name.includes('|'));
  const linked = table.childrenOf(object.id).filter((link) => /Texture$/.test(link.object.kind));
  const meanings = new Set(
    [...vendor, ...linked.map((link) => link.property)]
      .filter((name) => name.includes('|'))
      .map(channelOfProperty),
  );
  const material = createMaterial(object.name || 'material', workflowOf(meanings));
  readClassic(material, object);
  if (material.workflow === 'metalRough') putHighlightAside(material);
  readOpacity(material, object, remarks);
  readAmounts(material, object, linked);
  for (const name of vendor) readVendorValue(material, object, name);
  for (const link of linked) readLinkedTexture(material, link, table, { addImage, remarks });
  return material;
}

/** The same for who knows the classic properties alone; null where there are no others. */
export function readClassicMaterial(
  object: FbxObject,
  table: ObjectTable,
  addImage: AddImage,
): Material | null {
  const linked = table.childrenOf(object.id).filter((link) => /Texture$/.test(link.object.kind));
  const isVendors = (name: string) => name.includes('|');
  if (![...object.properties.names(), ...linked.map(({ property }) => property)].some(isVendors)) return null;
  const material = createMaterial(object.name || 'material', 'legacy');
  // What is remarkable about it is remarkable about the whole material, and told there.
  const remarks: Remark[] = [];
  readClassic(material, object);
  readOpacity(material, object, remarks);
  readAmounts(material, object, linked);
  for (const link of linked)
    if (!isVendors(link.property)) readLinkedTexture(material, link, table, { addImage, remarks });
  return material;
}

/**
 * A block of vendor properties makes a modern material; gloss and specular colour without metalness,
 * spec/gloss.
 */
function workflowOf(meanings: Set<WordMeaning | undefined>): Material['workflow'] {
  meanings.delete(undefined);
  if (meanings.size === 0) return 'legacy';
  const specGloss = meanings.has('glossiness') && !meanings.has('metalness') && !meanings.has('roughness');
  return specGloss ? 'specGloss' : 'metalRough';
}

function readClassic(material: Material, { properties }: FbxObject): void {
  const set = (channel: ChannelName, value: number | Rgb, from: string) => {
    material.channels[channel] = { value, map: null, source: { from: 'file', detail: from } };
  };
  const times = (colour: Rgb, factor: number | undefined): Rgb =>
    colour.map((value) => value * (factor ?? 1)) as Rgb;
  const diffuse = properties.vector('DiffuseColor') ?? properties.vector('Diffuse');
  if (diffuse) set('baseColor', times(diffuse, properties.number('DiffuseFactor')), 'DiffuseColor');
  const emissive = properties.vector('EmissiveColor') ?? properties.vector('Emissive');
  const glow = emissive && times(emissive, properties.number('EmissiveFactor'));
  if (glow?.some((value) => value > 0)) set('emission', glow, 'EmissiveColor');
  const specular = properties.vector('SpecularColor') ?? properties.vector('Specular');
  if (specular) set('specularColor', times(specular, properties.number('SpecularFactor')), 'SpecularColor');
  material.exponent = properties.number('ShininessExponent') ?? properties.number('Shininess') ?? null;
}

const AMOUNTS = { bump: 'BumpFactor', height: 'DisplacementFactor' } as const;

/** How much of a bump or displacement image is taken; without an image the factors stand there by habit. */
function readAmounts(material: Material, { properties }: FbxObject, linked: readonly FbxLink[]): void {
  for (const { property } of linked) {
    const channel = channelOf(own(CLASSIC_MAPS, property));
    if (channel !== 'bump' && channel !== 'height') continue;
    const from = AMOUNTS[channel];
    const value = properties.number(from);
    if (value !== undefined)
      material.channels[channel] = { value, map: null, source: { from: 'file', detail: from } };
  }
}

/**
 * Transparency is colour times factor, by the classic model; `Opacity` repeats it and often contradicts it.
 */
function readOpacity(material: Material, { properties, name }: FbxObject, remarks: Remark[]): void {
  const colour = properties.vector('TransparentColor');
  const factor = properties.number('TransparencyFactor');
  const written = properties.has('Opacity') ? properties.number('Opacity') : undefined;
  for (const key of ['TransparentColor', 'TransparencyFactor', 'Opacity']) {
    if (properties.has(key)) material.extras[key] = (properties.numbers(key) ?? []).join(' ');
  }
  const transparency = transparencyOf(colour, factor, properties);
  const opacity = 1 - transparency;
  if (written !== undefined && Math.abs(written - opacity) > 1e-3) {
    addRemark(remarks, {
      code: 'read.opacityContradiction',
      severity: 'warning',
      subject: name,
      message: `Opacity is ${written}, but transparent colour times factor gives ${opacity.toFixed(3)}; the latter was taken`,
    });
  }
  if (opacity < 1) {
    material.channels.opacity = {
      value: Math.max(0, opacity),
      map: null,
      source: { from: 'file', detail: '1 - TransparentColor x TransparencyFactor' },
    };
    material.alphaMode = 'blend';
  }
}

function transparencyOf(
  colour: [number, number, number] | undefined,
  factor: number | undefined,
  properties: PropertyTable,
) {
  if (colour) return ((colour[0] + colour[1] + colour[2]) / 3) * (factor ?? 1);
  return properties.has('TransparencyFactor') ? (factor ?? 0) : 0;
}

/** `Vendor|part|base_color_map`: only the last part tells, whoever wrote it. */
export function channelOfProperty(name: string): WordMeaning | undefined {
  const last = name.slice(name.lastIndexOf('|') + 1);
  const words = splitWords(last).filter(
    (word) => !/^(map|maps|tex|texture|image|file|use|factor|amount|weight|value)$/.test(word),
  );
  return (
    meaningOfWord(words.join('')) ??
    (words.length > 1 ? meaningOfWord(words.slice(0, 2).join('')) : undefined)
  );
}

function readVendorValue(material: Material, { properties }: FbxObject, name: string): void {
  const last = name.slice(name.lastIndexOf('|') + 1);
  const meaning = channelOfProperty(name);
  const numbers = properties.numbers(name) ?? [];
  if (!meaning || !isChannel(meaning) || /map|tex|use|image|file/i.test(last) || numbers.length === 0) {
    const text = numbers.length > 0 ? numbers.join(' ') : properties.text(name);
    if (text) material.extras[name] = text;
    return;
  }
  const value: number | Rgb = VECTOR_CHANNELS.has(meaning)
    ? [numbers[0], numbers[1] ?? numbers[0], numbers[2] ?? numbers[0]]
    : numbers[0];
  material.channels[meaning] = { value, map: null, source: { from: 'file', detail: name } };
}

function isChannel(word: WordMeaning): word is ChannelName {
  return (CHANNELS as readonly string[]).includes(word);
}

interface ReadingHost {
  addImage: AddImage;
  remarks: Remark[];
}

function readLinkedTexture(
  material: Material,
  { object: texture, property }: FbxLink,
  table: ObjectTable,
  { addImage, remarks }: ReadingHost,
): void {
  const direct = texture.kind === 'LayeredTexture' ? firstLayer(texture, table, remarks) : texture;
  if (!direct) return;
  const meaning: WordMeaning | undefined = property.includes('|')
    ? channelOfProperty(property)
    : own(CLASSIC_MAPS, property);
  const channel = channelOf(meaning);
  if (!channel || !isChannel(channel)) {
    addRemark(remarks, {
      code: 'read.notCarried',
      severity: 'note',
      subject: property || 'texture',
      message: `textures linked to ${property || 'no property'} have no channel here`,
    });
    return;
  }
  const image = addImage(readImage(direct, table));
  const use = createMapUse(image.key, channel, textureOptions(direct));
  if (channel === 'opacity') resolveOpacityUse(material, use, property, image.written);
  const classicColour = !property.includes('|') && (channel === 'baseColor' || channel === 'emission');
  const existing = material.channels[channel];
  const amount = channel === 'bump' || channel === 'height';
  material.channels[channel] = {
    value:
      existing && (property.includes('|') || classicColour || amount) ? existing.value : unitValue(channel),
    map: use,
    source: { from: 'file', detail: property },
  };
}

function channelOf(meaning: WordMeaning | undefined) {
  if (meaning === 'transparency') return 'opacity';
  return meaning === 'bumpOrNormal' ? 'bump' : meaning;
}

/**
 * A texture on transparency says "white is clear". Two habits differ: the base image itself, whose alpha is
 * meant, and an image whose name says opacity or alpha, which is opaque where white.
 */
function resolveOpacityUse(material: Material, use: MapUse, property: string, written: string): void {
  if (material.alphaMode === 'opaque') material.alphaMode = 'blend';
  if (material.channels.baseColor?.map?.image === use.image) {
    use.component = 'a';
    return;
  }
  const name = written
    .slice(Math.max(written.lastIndexOf('/'), written.lastIndexOf('\\')) + 1)
    .replace(/\.\w+$/, '');
  const saysOpacity =
    property.includes('pacity') || splitWords(name).some((word) => meaningOfWord(word) === 'opacity');
  use.invert = !saysOpacity;
}

function firstLayer(layered: FbxObject, table: ObjectTable, remarks: Remark[]): FbxObject | null {
  const layers = table.childrenOf(layered.id).filter((link) => link.object.kind === 'Texture');
  if (layers.length > 1) {
    addRemark(remarks, {
      code: 'read.notCarried',
      severity: 'warning',
      subject: layered.name,
      message: `of ${layers.length} texture layers only the lowest is carried`,
    });
  }
  return layers[0]?.object ?? null;
}

/** Paths and content of a texture. */
export function readImage(texture: FbxObject, table: ObjectTable): Omit<ImageEntry, 'key'> {
  const video =
    table.childrenOf(texture.id).find((link) => link.object.kind === 'Video')?.object ??
    findMedia(texture, table);
  const pathOf = (node: FbxNode | undefined, ...names: string[]) =>
    names.map((name) => textAt(childOf(node, name), 0)).find((text) => text !== '') ?? '';
  const relative = pathOf(texture.node, 'RelativeFilename') || pathOf(video?.node, 'RelativeFilename');
  const written =
    pathOf(texture.node, 'FileName', 'Filename') ||
    pathOf(video?.node, 'FileName', 'Filename') ||
    relative ||
    texture.name;
  return { written, relative: relative || null, embedded: readContent(video) };
}

/** In 6.x a texture names its video by `Media` rather than by a link. */
function findMedia(texture: FbxObject, table: ObjectTable): FbxObject | undefined {
  const media = textAt(childOf(texture.node, 'Media'), 0);
  return media ? table.objects.get(media) : undefined;
}

/** Embedded content: raw bytes in the binary form, base64 text in the text form. */
function readContent(video: FbxObject | undefined): Uint8Array | null {
  const content = childOf(video?.node, 'Content');
  const first = content?.properties[0];
  if (!content || !first) return null;
  if (first.type === 'R') return first.value.length > 0 ? first.value : null;
  const text = content.properties.map((property) => (property.type === 'S' ? property.value : '')).join('');
  const bytes = Buffer.from(text, 'base64');
  return bytes.length > 0 ? new Uint8Array(bytes) : null;
}

/** UV set, transform and wrap of a texture. */
export function textureOptions({ properties, node }: FbxObject): Partial<MapUse> {
  // FBX has no word for colour spaces.
  const out: Partial<MapUse> = { spaceFrom: 'unstated' };
  const set = properties.text('UVSet');
  if (set && set !== 'default') out.uvSet = set;
  const wrap = (name: string) => (properties.number(name) === 1 ? 'clamp' : 'repeat');
  out.wrap = [wrap('WrapModeU'), wrap('WrapModeV')];
  const modelOffset = childOf(node, 'ModelUVTranslation');
  const offset = properties.vector('Translation') ?? [
    Number(modelOffset?.properties[0]?.value ?? 0),
    Number(modelOffset?.properties[1]?.value ?? 0),
    0,
  ];
  const scale = properties.vector('Scaling') ?? [1, 1, 1];
  const turn = properties.vector('Rotation') ?? [0, 0, 0];
  const plain = offset[0] === 0 && offset[1] === 0 && scale[0] === 1 && scale[1] === 1 && turn[2] === 0;
  if (!plain) {
    out.transform = {
      offset: [offset[0], offset[1]],
      scale: [scale[0], scale[1]],
      rotation: (turn[2] * Math.PI) / 180,
    };
  }
  return out;
}
