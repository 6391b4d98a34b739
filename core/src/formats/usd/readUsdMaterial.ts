import { own } from '../../own.ts';
import { addUncarried } from '../../scene/document.ts';
import { complementUse } from '../../scene/mapUse.ts';
import {
  type ChannelName,
  createMaterial,
  type Material,
  type Rgb,
  scalarValue,
  unitValue,
  VECTOR_CHANNELS,
} from '../../scene/material.ts';
import type { ComposedPrim, ComposedProperty } from './compose.ts';
import {
  follow,
  type MaterialHost,
  readsColours,
  readTexture,
  said,
  shaderId,
  splitProperty,
} from './readUsdTexture.ts';
import {
  CLOTH,
  FALLBACKS,
  GLTF_PBR,
  type InputTable,
  PREVIEW,
  SHADERS,
  UNHELD,
  type Unheld,
  WEIGHTS,
  type Weight,
} from './shaderTables.ts';
import { get, numberOf, numbersOf, propertyValue } from './values.ts';

/**
 * Reads a Material prim: UsdPreviewSurface networks, and MaterialX-style surfaces as far as their inputs map
 * to channels.
 */
export function readUsdMaterial(prim: ComposedPrim, name: string, host: MaterialHost): Material {
  const material = createMaterial(name, 'metalRough');
  const shader = surfaceOf(prim, host.byPath);
  if (!shader) {
    if (prim.children.length > 0)
      addUncarried(host.remarks, 'materials without a surface that is understood', prim.path, {
        why: 'they are empty',
        severity: 'warning',
      });
    return material;
  }
  const id = shaderId(shader);
  const table = own(SHADERS, id) as InputTable;
  const specular = table === PREVIEW && numberOf(get(shader, 'inputs:useSpecularWorkflow')) === 1;
  for (const property of shader.properties.values()) {
    if (!property.name.startsWith('inputs:')) continue;
    const input = property.name.slice(7);
    const channel = table[input];
    if (channel) readInput(material, { channel, property, prim }, host);
    else {
      const { value, shader: node } = follow(property, host);
      if (node)
        addUncarried(host.remarks, `maps of input ${input}`, prim.path, {
          why: 'there is no channel for them',
        });
      else if (value && !PASSED_OVER.has(input) && propertyValue(value) !== undefined)
        material.extras[input] = printed(value);
    }
  }
  addFallbacks(material, table, `${prim.path}, fallback of ${id}`);
  if (table === PREVIEW && !specular) delete material.channels.specularColor;
  if (specular) toSpecGloss(material, `${prim.path}, fallback of ${id}`);
  for (const weight of WEIGHTS.get(table) ?? []) weigh(material, shader, weight, host);
  resolveAlpha(material, shader, table);
  readCloth(material, shader, table, host);
  for (const unheld of UNHELD.get(table) ?? []) tellUnheld(material, shader, unheld, host);
  return material;
}

/** Tells what there is no channel for, where it changes the look; images of it are told anyway. */
function tellUnheld(
  { channels, name }: Material,
  shader: ComposedPrim,
  { input, kind, neutral, of }: Unheld,
  host: MaterialHost,
): void {
  const value = said(shader, `inputs:${input}`, host);
  const numbers = numbersOf(value) ?? [numberOf(value) ?? neutral];
  const channel = of && channels[of];
  const isThere = of === null || (channel && (channel.map || scalarValue(channel.value) > 0));
  if (!isThere || numbers.every((number) => number === neutral)) return;
  addUncarried(host.remarks, kind, name, { why: 'there is no channel for them', severity: 'warning' });
}

/** How rough the cloth is, which no channel says. */
function readCloth(
  { channels, extras }: Material,
  shader: ComposedPrim,
  table: InputTable,
  host: MaterialHost,
): void {
  const cloth = CLOTH.get(table);
  if (!cloth || !channels.sheenColor) return;
  delete extras[cloth.input];
  extras.sheenRoughness = String(numberOf(said(shader, `inputs:${cloth.input}`, host)) ?? cloth.unsaid);
}

function addFallbacks({ channels }: Material, table: InputTable, detail: string): void {
  for (const [name, number] of Object.entries(FALLBACKS.get(table) ?? {})) {
    const channel = name as ChannelName;
    const value = VECTOR_CHANNELS.has(channel) ? ([number, number, number] as Rgb) : number;
    channels[channel] ??= { value, map: null, source: { from: 'file', detail } };
  }
}

const PASSED_OVER = new Set([
  'useSpecularWorkflow',
  'opacityThreshold',
  'opacityMode',
  'emission',
  'emission_luminance',
  'emissive_strength',
  'alpha_cutoff',
  'alpha_mode',
  'base',
  'base_weight',
  'sheen',
  'fuzz_weight',
  'subsurface',
  'subsurface_weight',
]);

/** The shader behind the surface output, the universal one first. */
export function surfaceOf(prim: ComposedPrim, byPath: Map<string, ComposedPrim>): ComposedPrim | null {
  const outputs = [...prim.properties.values()].filter((property) =>
    /^outputs:(\w+:)?surface$/.test(property.name),
  );
  outputs.sort((a, b) => a.name.length - b.name.length);
  for (const output of outputs) {
    let target = output.targets[0];
    for (let hop = 0; hop < 8 && target; hop += 1) {
      const [path, connected] = splitProperty(target);
      const shader = byPath.get(path);
      if (!shader) break;
      if (own(SHADERS, shaderId(shader))) return shader;
      target = shader.properties.get(connected)?.targets[0] ?? '';
    }
  }
  return null;
}

/** Name of the input that a channel's value stands in, by the kind of the surface. */
export function inputOfChannel(surface: ComposedPrim, channel: ChannelName): string | undefined {
  return Object.entries(own(SHADERS, shaderId(surface)) ?? {}).find(
    ([, meaning]) => meaning === channel,
  )?.[0];
}

interface ShaderInput {
  channel: ChannelName;
  property: ComposedProperty;
  /** The shader. */
  prim: ComposedPrim;
}

function readInput(material: Material, { channel, property, prim }: ShaderInput, host: MaterialHost): void {
  const detail = `${prim.path}, ${property.name}`;
  const { value, shader, output } = follow(property, host);
  if (shader) {
    const colours = channel === 'baseColor' ? readsColours(shader, host) : null;
    if (colours) host.colours.set(material, colours.primvar);
    const read = readTexture({ shader, output: output ?? '' }, channel, host, 0);
    // Occlusion has no value of its own beside an image.
    if (channel === 'occlusion' && typeof read?.factor === 'number') {
      const { gain, offset } = read.use;
      Object.assign(read.use, { gain: gain * read.factor, offset: offset * read.factor });
      read.factor = null;
    }
    if (read) {
      material.channels[channel] = {
        value: read.factor ?? unitValue(channel),
        map: read.use,
        source: { from: 'file', detail },
      };
      return;
    }
    if (colours) {
      material.channels.baseColor = { value: colours.tint, map: null, source: { from: 'file', detail } };
      return;
    }
    addUncarried(host.remarks, `shader nodes of kind ${shaderId(shader) || 'unknown'}`, prim.path, {
      why: 'what they feed has no map',
      severity: 'warning',
    });
  }
  if (channel === 'normal') return;
  const written = propertyValue(value ?? property);
  const numbers = numbersOf(written);
  const single = numberOf(written);
  if (numbers && numbers.length >= 3) {
    const rgb: Rgb = [numbers[0], numbers[1], numbers[2]];
    material.channels[channel] = {
      value: VECTOR_CHANNELS.has(channel) ? rgb : (rgb[0] + rgb[1] + rgb[2]) / 3,
      map: null,
      source: { from: 'file', detail },
    };
  } else if (single !== undefined) {
    material.channels[channel] = {
      value: VECTOR_CHANNELS.has(channel) ? [single, single, single] : single,
      map: null,
      source: { from: 'file', detail },
    };
  }
}

/** In the specular workflow roughness is what is left over from gloss, and nothing reflects where nothing is said. */
function toSpecGloss(material: Material, detail: string): void {
  const { channels } = material;
  const { roughness } = channels;
  material.workflow = 'specGloss';
  delete channels.metalness;
  channels.specularColor ??= { value: [0, 0, 0], map: null, source: { from: 'file', detail } };
  if (!roughness) return;
  delete channels.roughness;
  const value = typeof roughness.value === 'number' ? roughness.value : 1;
  channels.glossiness = {
    value: roughness.map ? 1 : 1 - value,
    map: roughness.map && complementUse(value, roughness.map),
    source: roughness.source,
  };
}

/** MaterialX surfaces keep how much there is of a colour apart from it; what there is nothing of goes. */
function weigh(
  { channels }: Material,
  shader: ComposedPrim,
  { channel: name, input, unsaid }: Weight,
  host: MaterialHost,
): void {
  const channel = channels[name];
  if (!channel) return;
  const { shader: node, value } = follow(shader.properties.get(`inputs:${input}`), host);
  if (node) {
    addUncarried(host.remarks, `maps of input ${input}`, shader.path, {
      why: 'there is no channel for them; they are read as 1',
      severity: 'warning',
    });
    return;
  }
  const weight = numberOf(propertyValue(value)) ?? unsaid;
  if (weight === 0 && name !== 'baseColor') delete channels[name];
  else if (typeof channel.value === 'number') channel.value *= weight;
  else channel.value = channel.value.map((component) => component * weight) as Rgb;
}

function resolveAlpha(material: Material, shader: ComposedPrim, table: InputTable): void {
  const threshold = thresholdOf(shader, table);
  const { opacity } = material.channels;
  if (!opacity) return;
  const opaque = threshold === null || (!opacity.map && opacity.value === 1);
  if (opaque) {
    delete material.channels.opacity;
    return;
  }
  material.alphaMode = threshold > 0 ? 'mask' : 'blend';
  if (threshold > 0) material.alphaCutoff = threshold;
  // The alpha of the base image, written without saying which output, is meant as alpha.
  if (
    opacity.map &&
    opacity.map.image === material.channels.baseColor?.map?.image &&
    opacity.map.component === 'rgb'
  )
    opacity.map.component = 'a';
}

/** Where a cut-out ends; 0 where opacity blends, null where nothing is seen through. */
function thresholdOf(shader: ComposedPrim, table: InputTable): number | null {
  if (table === PREVIEW) return numberOf(get(shader, 'inputs:opacityThreshold')) ?? 0;
  if (table !== GLTF_PBR) return 0;
  const mode = numberOf(get(shader, 'inputs:alpha_mode')) ?? 0;
  if (mode === 0) return null;
  // A threshold of 0 would blend.
  return mode === 1 ? Math.max(LEAST_CUTOFF, numberOf(get(shader, 'inputs:alpha_cutoff')) ?? 0.5) : 0;
}

const LEAST_CUTOFF = 1e-6;

function printed(property: ComposedProperty): string {
  const value = propertyValue(property);
  const numbers = numbersOf(value);
  return numbers ? [...numbers].join(' ') : String(value);
}
