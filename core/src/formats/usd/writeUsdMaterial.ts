import { asLine } from '../../scene/mapUse.ts';
import {
  type Channel,
  type ChannelName,
  type ColourSpace,
  type MapUse,
  type Material,
  type Rgb,
  saysMore,
  scalarValue,
  showsColours,
} from '../../scene/material.ts';
import { roughnessOfExponent } from '../../scene/shading.ts';
import type { Losses } from '../written.ts';
import { AssetPath, createPrim, createProperty, type PrimSpec, type UsdValue } from './layer.ts';
import { set, setUniform } from './writeViews.ts';

const INPUTS: Partial<Record<ChannelName, { input: string; type: 'color3f' | 'float' | 'normal3f' }>> = {
  baseColor: { input: 'diffuseColor', type: 'color3f' },
  emission: { input: 'emissiveColor', type: 'color3f' },
  specularColor: { input: 'specularColor', type: 'color3f' },
  metalness: { input: 'metallic', type: 'float' },
  roughness: { input: 'roughness', type: 'float' },
  glossiness: { input: 'roughness', type: 'float' },
  coat: { input: 'clearcoat', type: 'float' },
  coatRoughness: { input: 'clearcoatRoughness', type: 'float' },
  opacity: { input: 'opacity', type: 'float' },
  ior: { input: 'ior', type: 'float' },
  normal: { input: 'normal', type: 'normal3f' },
  height: { input: 'displacement', type: 'float' },
  occlusion: { input: 'occlusion', type: 'float' },
};

/** A material as a UsdPreviewSurface network. Channels that it has no input for are listed as lost. */
interface NetworkHost {
  /** Files of images by key. */
  images: ReadonlyMap<string, string>;
  /** Primvar of a UV set, the first for null. */
  uvName(set: string | null): string;
  /** Whether parts that it is on have colours. */
  coloured: boolean;
  losses: Losses;
}

/** The least threshold of a cut-out. */
const LEAST_CUTOFF = 1e-6;

/**
 * A Material prim with a UsdPreviewSurface and the readers of its textures, all below `path`. What the
 * surface has no input for goes to the host's losses.
 */
export function materialPrim(material: Material, path: string, host: NetworkHost): PrimSpec {
  const { losses } = host;
  const prim = createPrim(path.slice(path.lastIndexOf('/') + 1), 'Material');
  if (prim.name !== material.name) prim.metadata.displayName = material.name;
  connect(prim, 'outputs:surface', 'token', `${path}/Surface.outputs:surface`);
  const surface = createPrim('Surface', 'Shader');
  setUniform(surface, 'info:id', 'token', 'UsdPreviewSurface');
  const network = new Network(path, material.key, host);
  if (material.workflow === 'specGloss') set(surface, 'inputs:useSpecularWorkflow', 'int', 1);
  for (const [name, channel] of Object.entries(material.channels)) {
    const place = INPUTS[name as ChannelName];
    if (!place || (name === 'specularColor' && material.workflow !== 'specGloss')) {
      if (channel.map || saysMore(name as ChannelName, channel.value))
        losses.add({ code: 'usd.noInput', material: material.key, channel: name as ChannelName });
      continue;
    }
    const input = `inputs:${place.input}`;
    const output = channel.map && network.texture(name as ChannelName, channel.map, channel.value);
    if (output) connect(surface, input, place.type, output);
    else if (name !== 'normal') set(surface, input, place.type, constant(name, place.type, channel.value));
  }
  if (material.workflow === 'legacy' && !material.channels.roughness && material.exponent !== null) {
    set(surface, 'inputs:roughness', 'float', roughnessOfExponent(material.exponent));
  }
  // A threshold of 0 would blend.
  if (material.alphaMode === 'mask')
    set(surface, 'inputs:opacityThreshold', 'float', Math.max(LEAST_CUTOFF, material.alphaCutoff));
  const { opacity } = material.channels;
  if (material.alphaMode !== 'opaque' && !(opacity && saysClear(opacity)))
    losses.add({ code: 'usd.blend', material: material.key });
  if (host.coloured && showsColours(material)) {
    const { value, map } = material.channels.baseColor ?? { value: 1, map: null };
    // An image, or another value than white, stands alone.
    if (!map && isWhite(value)) connect(surface, 'inputs:diffuseColor', 'color3f', network.colours());
    else losses.add({ code: 'usd.colours', material: material.key });
  }
  set(surface, 'outputs:surface', 'token', undefined as unknown as UsdValue);
  prim.children.push(surface, ...network.prims);
  return prim;
}

function isWhite(value: number | Rgb): boolean {
  return [value].flat().every((component) => component === 1);
}

/** Whether an opacity may be below 1 somewhere, which is all that keeps UsdPreviewSurface from being opaque. */
export function saysClear({ map, value }: Pick<Channel, 'map' | 'value'>): boolean {
  return map !== null || scalarValue(value) < 1;
}

function connect(prim: PrimSpec, name: string, type: string, target: string): void {
  prim.properties.set(name, createProperty(name, type, { targets: [target] }));
}

function constant(name: string, type: string, value: number | Rgb): UsdValue {
  const scalar = typeof value === 'number' ? value : (value[0] + value[1] + value[2]) / 3;
  if (name === 'glossiness') return 1 - scalar;
  if (type === 'float') return scalar;
  return Float64Array.from(typeof value === 'number' ? [value, value, value] : value);
}

/** The texture nodes of one material. */
class Network {
  readonly prims: PrimSpec[] = [];
  private readonly readers = new Map<string, string>();

  constructor(
    private readonly path: string,
    private readonly material: string,
    private readonly host: NetworkHost,
  ) {}

  /** Adds what reads a map; returns the output to connect to, or null when the image is unknown. */
  texture(channel: ChannelName, use: MapUse, value: number | Rgb): string | null {
    const file = this.host.images.get(use.image);
    if (file === undefined) return null;
    const node = createPrim(`${channel}_map`, 'Shader');
    setUniform(node, 'info:id', 'token', 'UsdUVTexture');
    set(node, 'inputs:file', 'asset', new AssetPath(/^(\.|\/|[a-z]+:)/i.test(file) ? file : `./${file}`));
    set(node, 'inputs:sourceColorSpace', 'token', this.spaceWord(use.space, channel));
    set(node, 'inputs:wrapS', 'token', use.wrap[0]);
    set(node, 'inputs:wrapT', 'token', use.wrap[1]);
    const { scale, bias } = rangeOf(channel, use, value);
    if (scale.some((component) => component !== 1))
      set(node, 'inputs:scale', 'float4', Float64Array.from(scale));
    if (bias.some((component) => component !== 0))
      set(node, 'inputs:bias', 'float4', Float64Array.from(bias));
    connect(node, 'inputs:st', 'float2', this.coordinates(channel, use));
    const place = INPUTS[channel];
    const vector = place?.type !== 'float';
    const output = outputOf(use, vector);
    if (use.component === 'luminance')
      this.host.losses.add({ code: 'usd.luminance', material: this.material, channel });
    set(node, `outputs:${output}`, output === 'rgb' ? 'float3' : 'float', undefined as unknown as UsdValue);
    this.prims.push(node);
    return `${this.path}/${node.name}.outputs:${output}`;
  }

  /** The output that has the colours of points. */
  colours(): string {
    const node = createPrim('colours', 'Shader');
    setUniform(node, 'info:id', 'token', 'UsdPrimvarReader_float3');
    set(node, 'inputs:varname', 'string', 'displayColor');
    set(node, 'inputs:fallback', 'float3', Float64Array.of(1, 1, 1));
    set(node, 'outputs:result', 'float3', undefined as unknown as UsdValue);
    this.prims.push(node);
    return `${this.path}/${node.name}.outputs:result`;
  }

  private spaceWord(space: ColourSpace, channel: ChannelName): string {
    if (space === 'srgb_rec709_scene') return 'sRGB';
    if (!['data', 'unknown', 'lin_rec709_scene'].includes(space))
      this.host.losses.add({ code: 'usd.space', material: this.material, channel, detail: space });
    return space === 'unknown' ? 'auto' : 'raw';
  }

  private coordinates(channel: ChannelName, use: MapUse): string {
    const set_ = this.host.uvName(use.uvSet);
    let reader = this.readers.get(set_);
    if (!reader) {
      const node = createPrim(`uv_${set_}`, 'Shader');
      setUniform(node, 'info:id', 'token', 'UsdPrimvarReader_float2');
      set(node, 'inputs:varname', 'string', set_);
      set(node, 'outputs:result', 'float2', undefined as unknown as UsdValue);
      this.prims.push(node);
      reader = `${this.path}/${node.name}.outputs:result`;
      this.readers.set(set_, reader);
    }
    if (!use.transform) return reader;
    const node = createPrim(`${channel}_placement`, 'Shader');
    setUniform(node, 'info:id', 'token', 'UsdTransform2d');
    connect(node, 'inputs:in', 'float2', reader);
    set(node, 'inputs:scale', 'float2', Float64Array.from(use.transform.scale));
    set(node, 'inputs:rotation', 'float', (use.transform.rotation * 180) / Math.PI);
    set(node, 'inputs:translation', 'float2', Float64Array.from(use.transform.offset));
    set(node, 'outputs:result', 'float2', undefined as unknown as UsdValue);
    this.prims.push(node);
    return `${this.path}/${node.name}.outputs:result`;
  }
}

function outputOf(use: MapUse, vector: boolean) {
  if (use.component === 'rgb') return vector ? 'rgb' : 'r';
  if (use.component === 'luminance') return vector ? 'rgb' : 'r';
  return use.component;
}

/**
 * Scale and bias per component that make the stored number the channel's, its value times what the use reads.
 */
function rangeOf(
  channel: ChannelName,
  use: MapUse,
  value: number | Rgb,
): { scale: number[]; bias: number[] } {
  if (channel === 'normal') {
    const { strength = 1, normalY, range } = use;
    if (range) return { scale: [...range.scale, 1], bias: [...range.bias, 0] };
    const turn = normalY === 'Y-' ? -strength : strength;
    return { scale: [2 * strength, 2 * turn, 2, 1], bias: [-strength, -turn, -1, 0] };
  }
  const factors = typeof value === 'number' ? [value, value, value, value] : [...value, 1];
  if (typeof value !== 'number' && use.component !== 'rgb') factors[3] = (value[0] + value[1] + value[2]) / 3;
  const { gain, offset } = asLine(use);
  const scale = factors.map((factor) => factor * gain);
  const bias = factors.map((factor) => factor * offset);
  if (channel !== 'glossiness') return { scale, bias };
  return { scale: scale.map((component) => -component), bias: bias.map((component) => 1 - component) };
}
