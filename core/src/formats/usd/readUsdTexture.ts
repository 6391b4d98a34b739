import { own } from '../../own.ts';
import { addUncarried, type Remark } from '../../scene/document.ts';
import { complementUse } from '../../scene/mapUse.ts';
import {
  type ChannelName,
  COLOUR_SPACES,
  type ColourSpace,
  type Component,
  createMapUse,
  defaultSpace,
  type ImageEntry,
  type MapUse,
  type Material,
  type Rgb,
  type UvTransform,
  VECTOR_CHANNELS,
  type WrapMode,
} from '../../scene/material.ts';
import { transformUv } from '../../scene/uvTransform.ts';
import type { ComposedPrim, ComposedProperty } from './compose.ts';
import { AssetPath } from './layer.ts';
import { get, numberOf, numbersOf, propertyValue, textOf } from './values.ts';

/** What the reader of one material needs of the stage. */
export interface MaterialHost {
  byPath: Map<string, ComposedPrim>;
  addImage(written: string, layer: string): ImageEntry;
  remarks: Remark[];
  /** Of materials that multiply their base colour with colours of points: which primvar has these. */
  colours: Map<Material, string>;
}

/** Colour space words of image inputs. */
const SPACES: Record<string, ColourSpace> = {
  srgb: 'srgb_rec709_scene',
  srgb_texture: 'srgb_rec709_scene',
  raw: 'data',
  data: 'data',
  lin_rec709: 'lin_rec709_scene',
  linear: 'lin_rec709_scene',
  acescg: 'lin_ap1_scene',
  lin_ap1: 'lin_ap1_scene',
  'aces - acescg': 'lin_ap1_scene',
  'aces - aces2065-1': 'lin_ap0_scene',
  lin_displayp3: 'lin_p3d65_scene',
  srgb_displayp3: 'srgb_p3d65_scene',
  lin_adobergb: 'lin_adobergb_scene',
  adobergb: 'g22_adobergb_scene',
  g22_rec709: 'g22_rec709_scene',
  g18_rec709: 'g18_rec709_scene',
  g22_ap1: 'g22_ap1_scene',
};

/** What a Shader prim is: its `info:id`, or ''. */
export function shaderId(prim: ComposedPrim): string {
  return textOf(get(prim, 'info:id')) ?? '';
}

/** Follows connections of an input through interfaces, until a value or a shader's output is met. */
export function follow(
  property: ComposedProperty | undefined,
  host: MaterialHost,
): { value?: ComposedProperty; shader?: ComposedPrim; output?: string } {
  let current = property;
  for (let hop = 0; hop < 16 && current; hop += 1) {
    const target = current.targets[0];
    if (!target) return { value: current };
    const [path, name] = splitProperty(target);
    const prim = host.byPath.get(path);
    if (!prim) return { value: current };
    if (prim.typeName === 'Shader') return { shader: prim, output: name.replace(/^outputs:/, '') };
    const next: ComposedProperty | undefined = prim.properties.get(name);
    if (!next) return { value: current };
    current = next;
  }
  return {};
}

/** The value of a shader's input, its own or one that is handed on by what is around it. */
export function said(shader: ComposedPrim, name: string, host: MaterialHost): ReturnType<typeof get> {
  return propertyValue(follow(shader.properties.get(name), host).value);
}

/** The prim and the property that a path names; no property where it has no dot. */
export function splitProperty(path: string): [string, string] {
  const dot = path.indexOf('.', path.lastIndexOf('/'));
  return dot < 0 ? [path, ''] : [path.slice(0, dot), path.slice(dot + 1)];
}

/** How a shader says where its image lies. */
type Coordinates = Partial<Pick<MapUse, 'uvSet' | 'transform' | 'unplaced'>>;

interface ReadTexture {
  use: MapUse;
  /** A colour or number that multiplies the map, where the network says so. */
  factor: number | Rgb | null;
}
const COMPONENT_OUTPUTS: Record<string, Component> = {
  r: 'r',
  g: 'g',
  b: 'b',
  a: 'a',
  rgb: 'rgb',
  outr: 'r',
  outg: 'g',
  outb: 'b',
  outa: 'a',
  outx: 'r',
  outy: 'g',
  outz: 'b',
};
const MAX_NODES = 12;

interface ShaderOutput {
  shader: ComposedPrim;
  output: string;
}

/** The image behind a node, with what the nodes between do to it. */
export function readTexture(
  from: ShaderOutput,
  channel: ChannelName,
  host: MaterialHost,
  depth: number,
): ReadTexture | null {
  const { shader, output } = from;
  if (depth > MAX_NODES) return null;
  const id = shaderId(shader);
  if (id === 'UsdUVTexture' || /^ND_UsdUVTexture/.test(id)) return readUvTexture(from, channel, host);
  if (/^ND_(tiled)?image_/.test(id) || /^ND_gltf_(colorimage|image|normalmap)/.test(id))
    return readMtlxImage(from, channel, host);
  const next = (name: string) => {
    const source = follow(shader.properties.get(`inputs:${name}`), host);
    return source.shader
      ? readTexture({ shader: source.shader, output: source.output ?? '' }, channel, host, depth + 1)
      : null;
  };
  if (/^ND_normalmap/.test(id)) {
    const read = next('in');
    const scale = numberOf(said(shader, 'inputs:scale', host)) ?? 1;
    if (!read || scale === 1) return read;
    return { ...read, use: { ...read.use, strength: scale } };
  }
  if (/^ND_(dot|convert|srgb_texture_to_lin_rec709|saturate|clamp)/.test(id)) return next('in');
  if (/^ND_(separate|extract|swizzle)/.test(id)) {
    const read = next('in');
    if (!read) return null;
    const index = numberOf(said(shader, 'inputs:index', host));
    const named = textOf(said(shader, 'inputs:channels', host));
    const component =
      index !== undefined
        ? ('rgba'[index] as Component)
        : (own(COMPONENT_OUTPUTS, (named ?? output).toLowerCase()) ?? read.use.component);
    return { ...read, use: { ...read.use, component } };
  }
  if (/^ND_invert/.test(id)) {
    const read = next('in');
    if (!read || typeof read.factor === 'object') return read && inverted(read, shader, host);
    return { use: complementUse(read.factor, read.use), factor: null };
  }
  return /^ND_multiply/.test(id) ? readProduct(from, channel, host, depth) : null;
}

/** 1 - a colour; one that is multiplied before is no image times a colour any more. */
function inverted({ use, factor }: ReadTexture, shader: ComposedPrim, host: MaterialHost): ReadTexture {
  if (factor !== null)
    addUncarried(host.remarks, 'colours that are multiplied and inverted', shader.path, {
      why: 'they are inverted first',
      severity: 'warning',
    });
  return { use: complementUse(1, use), factor };
}

/** An image times a value; of two images the first is taken. */
function readProduct(
  { shader }: ShaderOutput,
  channel: ChannelName,
  host: MaterialHost,
  depth: number,
): ReadTexture | null {
  const [first, second] = ['inputs:in1', 'inputs:in2'].map((name) => {
    const { shader: node, output } = follow(shader.properties.get(name), host);
    return node ? readTexture({ shader: node, output: output ?? '' }, channel, host, depth + 1) : null;
  });
  const read = first ?? second;
  if (!read) return null;
  if (first && second)
    addUncarried(host.remarks, 'images that are multiplied with another', shader.path, {
      why: 'the first of them is read alone',
      severity: 'warning',
    });
  return times(read, said(shader, first ? 'inputs:in2' : 'inputs:in1', host), channel);
}

/** What is read, times a value. */
function times(
  { use, factor }: ReadTexture,
  value: ReturnType<typeof said>,
  channel: ChannelName,
): ReadTexture {
  const numbers = numbersOf(value);
  const single = numbers ? numbers[0] : numberOf(value);
  if (single === undefined || channel === 'normal') return { use, factor };
  const before = typeof factor === 'number' || factor === null ? [factor, factor, factor] : factor;
  if (!VECTOR_CHANNELS.has(channel)) return { use, factor: (before[0] ?? 1) * single };
  const by = numbers && numbers.length >= 3 ? numbers : [single, single, single];
  return { use, factor: [0, 1, 2].map((k) => (before[k] ?? 1) * by[k]) as Rgb };
}

/** Whether a shader reads colours that stand with the points of a mesh. */
function isColourReader(shader: ComposedPrim): boolean {
  return /^(UsdPrimvarReader_float[34]|ND_UsdPrimvarReader_vector[34]|ND_geom(color|propvalue)_(color|vector)[34])$/.test(
    shaderId(shader),
  );
}

/** Colours of points that a shader reads, bare or multiplied with a value or an image; null where it reads none. */
export function readsColours(
  shader: ComposedPrim,
  host: MaterialHost,
): { primvar: string; tint: Rgb } | null {
  if (isColourReader(shader)) {
    const property = shader.properties.get('inputs:varname') ?? shader.properties.get('inputs:geomprop');
    const primvar = textOf(propertyValue(follow(property, host).value ?? property)) ?? 'displayColor';
    return { primvar, tint: [1, 1, 1] };
  }
  if (!/^ND_multiply/.test(shaderId(shader))) return null;
  for (const [name, other] of [
    ['in1', 'in2'],
    ['in2', 'in1'],
  ]) {
    const input = follow(shader.properties.get(`inputs:${name}`), host).shader;
    if (!input || !isColourReader(input)) continue;
    const value = said(shader, `inputs:${other}`, host);
    const single = numberOf(value) ?? 1;
    const [r = single, g = r, b = r] = numbersOf(value) ?? [];
    return { primvar: readsColours(input, host)?.primvar ?? 'displayColor', tint: [r, g, b] };
  }
  return null;
}

/** The image that a shader names, and the property that names it; null where it names none. */
function imageOf(
  shader: ComposedPrim,
  host: MaterialHost,
): { file: ComposedProperty; image: { key: string } } | null {
  const own = shader.properties.get('inputs:file');
  const file = follow(own, host).value ?? own;
  const written = propertyValue(file);
  const path = written instanceof AssetPath ? written.path : textOf(written);
  return file && path ? { file, image: host.addImage(path, file.layer) } : null;
}

function readUvTexture(
  { shader, output }: ShaderOutput,
  channel: ChannelName,
  host: MaterialHost,
): ReadTexture | null {
  const named = imageOf(shader, host);
  if (!named) return null;
  const { file, image } = named;
  const space =
    textOf(said(shader, 'inputs:sourceColorSpace', host)) ?? textOf(file.metadata.colorSpace) ?? 'auto';
  const component = own(COMPONENT_OUTPUTS, output.toLowerCase()) ?? 'rgb';
  const scale = numbersOf(said(shader, 'inputs:scale', host)) ?? Float64Array.of(1, 1, 1, 1);
  const bias = numbersOf(said(shader, 'inputs:bias', host)) ?? Float64Array.of(0, 0, 0, 0);
  const use = createMapUse(image.key, channel, {
    component: VECTOR_CHANNELS.has(channel) || component !== 'rgb' ? component : 'r',
    space: spaceOf(space, channel),
    ...unstated(space),
    wrap: [wrapOf(said(shader, 'inputs:wrapS', host)), wrapOf(said(shader, 'inputs:wrapT', host))],
    ...readCoordinates(shader, host),
  });
  if (channel === 'normal') {
    Object.assign(use, normalReading(scale, bias));
    return { use, factor: null };
  }
  const index = component === 'rgb' ? 0 : 'rgba'.indexOf(component);
  const [gain, offset] = [scale[index] ?? 1, bias[index] ?? 0];
  const plain = component === 'rgb' ? bias.slice(0, 3).every((value) => value === 0) : offset === 0;
  if (plain && VECTOR_CHANNELS.has(channel)) {
    const factor: Rgb = component === 'rgb' ? [scale[0], scale[1], scale[2]] : [gain, gain, gain];
    return { use, factor: factor.every((component) => component === 1) ? null : factor };
  }
  if (gain === -1 && offset === 1) use.invert = true;
  else Object.assign(use, { gain, offset });
  if (VECTOR_CHANNELS.has(channel)) tellBias(shader, use, { scale, bias }, host);
  return { use, factor: null };
}

/** Colours are scaled and moved as light, which is said here of stored numbers that are light, all three alike. */
function tellBias(
  shader: ComposedPrim,
  { space, component }: MapUse,
  { scale, bias }: Record<'scale' | 'bias', Float64Array>,
  host: MaterialHost,
): void {
  const alike = component !== 'rgb' || [1, 2].every((k) => scale[k] === scale[0] && bias[k] === bias[0]);
  const isLight = space === 'data' || space.startsWith('lin_');
  if (alike && isLight) return;
  addUncarried(host.remarks, 'biases of colours', shader.path, {
    why: 'they are added to light, by component, and are read as added to what is stored, by the first one',
    severity: 'warning',
  });
}

/**
 * What scale and bias say of a normal map. Usually they are (2, 2, 2) and (-1, -1, -1), or left out; what x and
 * y have more than z is strength, and y turned round points down. All else is kept as it stands.
 */
function normalReading(
  scale: ArrayLike<number>,
  bias: ArrayLike<number>,
): Pick<MapUse, 'normalY' | 'strength' | 'range'> {
  const bare = [0, 1, 2].every((k) => scale[k] === 1 && bias[k] === 0);
  if (bare || scale.length < 3 || bias.length < 3) return { normalY: 'Y+' };
  const near = (a: number, b: number) => Math.abs(a - b) <= 0.01 * Math.max(Math.abs(a), Math.abs(b));
  const [x, y, z] = [scale[0], scale[1], scale[2]];
  const usual =
    x > 0 && z > 0 && near(x, Math.abs(y)) && [0, 1, 2].every((k) => near(bias[k], -scale[k] / 2));
  if (!usual) return { normalY: 'Y+', range: { scale: [x, y, z], bias: [bias[0], bias[1], bias[2]] } };
  return { normalY: y < 0 ? 'Y-' : 'Y+', ...(x === z ? {} : { strength: x / z }) };
}

function readMtlxImage(
  { shader, output }: ShaderOutput,
  channel: ChannelName,
  host: MaterialHost,
): ReadTexture | null {
  const named = imageOf(shader, host);
  if (!named) return null;
  const { file, image } = named;
  const space = textOf(file.metadata.colorSpace) ?? 'auto';
  const component: Component =
    own(COMPONENT_OUTPUTS, output.toLowerCase()) ??
    (/float/.test(shaderId(shader)) || !VECTOR_CHANNELS.has(channel) ? 'r' : 'rgb');
  const address = (name: string): WrapMode =>
    (({ clamp: 'clamp', mirror: 'mirror' })[textOf(said(shader, name, host)) ?? ''] as WrapMode) ?? 'repeat';
  const coordinates = readCoordinates(shader, host);
  const tiled = tiling(shader, coordinates.transform ?? null, host);
  if (tiled) coordinates.transform = tiled;
  const use = createMapUse(image.key, channel, {
    component,
    space: spaceOf(space, channel),
    ...unstated(space),
    wrap: [address('inputs:uaddressmode'), address('inputs:vaddressmode')],
    ...coordinates,
  });
  if (!/^ND_gltf_/.test(shaderId(shader))) return { use, factor: null };
  for (const input of ['scale', 'offset', 'rotate'])
    if (shader.properties.has(`inputs:${input}`))
      addUncarried(host.remarks, `input ${input} of images`, shader.path, { severity: 'warning' });
  const factor = said(shader, 'inputs:factor', host);
  return times({ use, factor: null }, component === 'a' ? numbersOf(factor)?.[3] : factor, channel);
}

/** UV set and transform: primvar readers, UsdTransform2d and the MaterialX node that places UVs. */
function readCoordinates(shader: ComposedPrim, host: MaterialHost): Coordinates {
  const out: Coordinates = {};
  let reader = follow(shader.properties.get('inputs:st') ?? shader.properties.get('inputs:texcoord'), host);
  if (!reader.shader && shaderId(shader).includes('UsdUVTexture')) {
    out.unplaced = true;
    addUncarried(host.remarks, 'images without UVs', shader.path, {
      why: 'no UVs are connected, so that programs show one texel of it; it is read by the first UV set',
      severity: 'warning',
    });
  }
  for (let hop = 0; hop < 4 && reader.shader; hop += 1) {
    const node: ComposedPrim = reader.shader;
    const id = shaderId(node);
    if (/Transform2d/.test(id)) {
      const scale = numbersOf(said(node, 'inputs:scale', host)) ?? Float64Array.of(1, 1);
      const offset = numbersOf(said(node, 'inputs:translation', host)) ?? Float64Array.of(0, 0);
      const degrees = numberOf(said(node, 'inputs:rotation', host)) ?? 0;
      out.transform = {
        scale: [scale[0], scale[1]],
        offset: [offset[0], offset[1]],
        rotation: (degrees * Math.PI) / 180,
      };
      reader = follow(node.properties.get('inputs:in'), host);
    } else if (/^ND_place/.test(id)) {
      out.transform = placing(node, host);
      reader = follow(node.properties.get('inputs:texcoord'), host);
    } else {
      const property = node.properties.get('inputs:varname') ?? node.properties.get('inputs:geomprop');
      const name = textOf(propertyValue(follow(property, host).value ?? property));
      if (name) out.uvSet = name;
      break;
    }
  }
  return out;
}

/** Tiled images scale their UVs and take an offset away, after what places these; null where they do neither. */
function tiling(shader: ComposedPrim, before: UvTransform | null, host: MaterialHost): UvTransform | null {
  const [by, off] = ['uvtiling', 'uvoffset'].map((name) => numbersOf(said(shader, `inputs:${name}`, host)));
  if (!by && !off) return null;
  const [u, v] = by ?? [1, 1];
  const { scale, rotation, offset } = before ?? { scale: [1, 1], rotation: 0, offset: [0, 0] };
  if (rotation !== 0 && u !== v)
    addUncarried(host.remarks, 'uneven scales of turned UVs', shader.path, { severity: 'warning' });
  return {
    scale: [scale[0] * u, scale[1] * v],
    rotation,
    offset: [offset[0] * u - (off?.[0] ?? 0), offset[1] * v - (off?.[1] ?? 0)],
  };
}

/**
 * MaterialX places by dividing: about a pivot it scales, turns and moves UVs, or (order 1) the other way round, which
 * is said here as long as it does not scale unevenly what is turned.
 */
function placing(node: ComposedPrim, host: MaterialHost): UvTransform {
  const pair = (name: string, unsaid: number) => {
    const [u = unsaid, v = unsaid] = numbersOf(said(node, `inputs:${name}`, host)) ?? [];
    return [u, v] as const;
  };
  const [by, move, pivot] = [pair('scale', 1), pair('offset', 0), pair('pivot', 0)];
  const rotation = ((numberOf(said(node, 'inputs:rotate', host)) ?? 0) * Math.PI) / 180;
  const scale: [number, number] = [1 / (by[0] || 1), 1 / (by[1] || 1)];
  const last = numberOf(said(node, 'inputs:operationorder', host)) === 1;
  if (last && rotation !== 0 && scale[0] !== scale[1])
    addUncarried(host.remarks, 'uneven scales of turned UVs', node.path, { severity: 'warning' });
  const moved = ([u, v]: readonly number[]) => transformUv({ scale, rotation, offset: [0, 0] }, u, v);
  const home = moved(last ? [pivot[0] + move[0], pivot[1] + move[1]] : pivot);
  const after = last ? [0, 0] : move;
  return { scale, rotation, offset: [0, 1].map((k) => pivot[k] - home[k] - after[k]) as [number, number] };
}

function spaceOf(word: string, channel: ChannelName): ColourSpace {
  const typed =
    own(SPACES, word.toLowerCase()) ?? COLOUR_SPACES.find((space) => space === word.toLowerCase());
  return typed ?? (word === 'auto' || word === '' ? defaultSpace(channel) : 'unknown');
}

/** `auto` leaves it to the image. */
function unstated(word: string): Pick<MapUse, 'spaceFrom'> {
  return word === 'auto' || word === '' ? { spaceFrom: 'unstated' } : {};
}

function wrapOf(value: ReturnType<typeof get>): WrapMode {
  const word = textOf(value);
  if (word === 'clamp' || word === 'black') return 'clamp';
  return word === 'mirror' ? 'mirror' : 'repeat';
}
