import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import type { Goal } from './cells.ts';
import { decodeSrgb, fromAcescg, PLACES, type Rgb, roughnessOf } from './truth.ts';

/** What a receiver finds in one stripe of the plate; only what its kind of package says is there. */
export interface Found {
  base?: Rgb;
  metalness?: number;
  roughness?: number;
  diffuse?: Rgb;
  specular?: Rgb;
  /** Strength of the reflection in classic compositors. */
  strength?: number;
  opacity?: number;
  transmission?: number;
}

type Files = ReadonlyMap<string, Uint8Array>;

/**
 * Reads a package as its receiver would, by other means than ours: glTF as JSON, USD and MTL as text, FBX
 * through assimp; images by sharp and three. Which component of a packed image means what is the
 * destination's documented convention.
 */
export async function seePackage(files: Files, goal: Goal): Promise<Found[]> {
  const read = { glb: seeGltf, usda: seeUsd, fbx: seeFbx, obj: seeObj }[goal.variant] as (
    files: Files,
    goal: Goal,
  ) => Promise<Look>;
  const material = await read(files, goal);
  return PLACES.map((u) => material(u));
}

type Look = (u: number) => Found;
type Sample = (u: number) => number[];

/** Numbers of an image at a place across, as stored in 0..1, or floats as they are. */
async function sampler(name: string, bytes: Uint8Array | undefined): Promise<Sample> {
  if (!bytes) throw new Error(`${name} is not in the package`);
  if (name.endsWith('.exr')) {
    const { data, width, height } = exrLoader().parse(bytes.slice().buffer as ArrayBuffer) as {
      data: Float32Array;
      width: number;
      height: number;
    };
    const row = Math.floor(height / 2) * width;
    return (u) => [
      ...data.subarray((row + Math.floor(u * width)) * 4, (row + Math.floor(u * width)) * 4 + 4),
    ];
  }
  const image = sharp(bytes);
  const { depth = 'uchar' } = await image.metadata();
  const wide = depth === 'ushort';
  const { data, info } = await image
    .toColourspace(wide ? 'rgb16' : 'srgb')
    .raw({ depth: wide ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true });
  const { width, height, channels } = info;
  const numbers = depth === 'ushort' ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
  const unit = depth === 'ushort' ? 65_535 : 255;
  const row = Math.floor(height / 2) * width;
  return (u) =>
    [
      ...numbers.subarray(
        (row + Math.floor(u * width)) * channels,
        (row + Math.floor(u * width) + 1) * channels,
      ),
    ].map((code) => code / unit);
}

function exrLoader(): EXRLoader {
  const loader = new EXRLoader();
  loader.type = FloatType;
  return loader;
}

const fromSrgb = (stored: readonly number[]) =>
  stored.slice(0, 3).map((component) => decodeSrgb(component * 255)) as Rgb;
const times = (a: Rgb, b: readonly number[]) => a.map((component, k) => component * b[k]) as Rgb;
const firstOf = (files: Files, extension: string) =>
  [...files.keys()].find((path) => path.endsWith(extension)) as string;
const textOf = (files: Files, extension: string) =>
  new TextDecoder().decode(files.get(firstOf(files, extension)));

async function seeGltf(files: Files): Promise<Look> {
  const glb = files.get(firstOf(files, '.glb')) as Uint8Array;
  const view = new DataView(glb.buffer, glb.byteOffset);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length)));
  const binary = glb.subarray(28 + length);
  const [material] = json.materials;
  const pbr = material.pbrMetallicRoughness ?? {};
  const texture = async (info?: { index: number }): Promise<Sample | null> => {
    if (!info) return null;
    const { byteOffset = 0, byteLength } =
      json.bufferViews[json.images[json.textures[info.index].source].bufferView];
    return sampler('image.png', binary.slice(byteOffset, byteOffset + byteLength));
  };
  const [base, packed] = [await texture(pbr.baseColorTexture), await texture(pbr.metallicRoughnessTexture)];
  const [r, g, b, a] = pbr.baseColorFactor ?? [1, 1, 1, 1];
  return (u) => {
    const [stored, orm] = [base?.(u) ?? [1, 1, 1, 1], packed?.(u) ?? [1, 1, 1]];
    return {
      base: times(fromSrgb(stored), [r, g, b]),
      roughness: orm[1] * (pbr.roughnessFactor ?? 1),
      metalness: orm[2] * (pbr.metallicFactor ?? 1),
      opacity: material.alphaMode && material.alphaMode !== 'OPAQUE' ? (stored[3] ?? 1) * a : 1,
      transmission: material.extensions?.KHR_materials_transmission?.transmissionFactor ?? 0,
    };
  };
}

async function seeUsd(files: Files): Promise<Look> {
  const text = textOf(files, '.usda');
  const surface = /def Shader "Surface"\s*\{([^}]*)\}/.exec(text)?.[1] ?? '';
  const inputs = new Map<string, Sample>();
  for (const [, name, value] of surface.matchAll(/inputs:(\w+) = ([^\n]+)/g)) {
    const numbers = (value.match(/-?[\d.]+(?:e-?\d+)?/g) ?? []).map(Number);
    inputs.set(name, () => numbers);
  }
  for (const [, name, node, output] of surface.matchAll(
    /inputs:(\w+)\.connect = <[^>]*\/(\w+)\.outputs:(\w+)>/g,
  )) {
    const shader = new RegExp(`def Shader "${node}"\\s*\\{([^}]*)\\}`).exec(text)?.[1] ?? '';
    const path = /inputs:file = @([^@]*)@/.exec(shader)?.[1].replace(/^\.\//, '') ?? '';
    const quad = (word: string, usual: number) =>
      (new RegExp(`inputs:${word} = \\(([^)]*)\\)`).exec(shader)?.[1].split(',').map(Number) ?? [
        usual,
        usual,
        usual,
        usual,
      ]) as number[];
    const [scale, bias] = [quad('scale', 1), quad('bias', 0)];
    const encoded = /sourceColorSpace = "sRGB"/.test(shader);
    const at = await sampler(path, files.get(path));
    inputs.set(name, (u) => {
      const stored = at(u);
      const rgb = stored.slice(0, 3) as Rgb;
      const linear = path.endsWith('.exr') && output === 'rgb' ? fromAcescg(rgb) : rgb;
      const light = encoded ? fromSrgb(stored) : linear;
      const all = [...light, stored[3] ?? 1].map((component, k) => component * scale[k] + bias[k]);
      return output === 'rgb' ? all.slice(0, 3) : [all['rgba'.indexOf(output)]];
    });
  }
  const get = (name: string, usual: number[]) => inputs.get(name) ?? (() => usual);
  return (u) => ({
    base: get('diffuseColor', [0.18, 0.18, 0.18])(u) as Rgb,
    metalness: get('metallic', [0])(u)[0],
    roughness: get('roughness', [0.5])(u)[0],
    opacity: get('opacity', [1])(u)[0],
  });
}

interface Classic {
  value(name: string): number[] | undefined;
  image(name: string): Sample | undefined;
}

/** FBX by assimp: what it calls raw properties, in the block and out of it. */
async function seeFbx(files: Files, goal: Goal): Promise<Look> {
  const folder = await mkdtemp(join(tmpdir(), 'plate-'));
  try {
    const model = join(folder, 'plate.fbx');
    await writeFile(model, files.get(firstOf(files, '.fbx')) as Uint8Array);
    execFileSync('assimp', ['export', model, join(folder, 'out.assxml')], { stdio: 'ignore' });
    const text = readFileSync(join(folder, 'out.assxml'), 'utf8');
    const values = new Map<string, number[]>();
    const images = new Map<string, Sample>();
    for (const [, key, body] of text.matchAll(/<MatProperty key="([^"]*)"[^>]*>([^<]*)</g)) {
      const name = key.replace(/^\$raw\.(?:(?:[^|]+\|)+(?!file$))?/, '');
      if (name.endsWith('|file')) {
        const path = body.trim().replaceAll('"', '');
        images.set(name.slice(0, -5).replace(/_map$/, ''), await sampler(path, files.get(path)));
      } else if (!body.includes('"')) values.set(name, body.trim().split(/\s+/).map(Number));
    }
    return seeClassic({ value: (name) => values.get(name), image: (name) => images.get(name) }, goal, {
      base: ['DiffuseColor', 'base_color'],
      baseValue: ['$clr.diffuse'],
      specular: ['SpecularColor', 'specular_color'],
      specularValue: ['$clr.specular'],
      specularScale: '$mat.shinpercent',
      strength: ['SpecularFactor'],
      glossiness: ['ShininessExponent', 'glossiness'],
      exponent: '$mat.shininess',
      opacity: ['TransparentColor', 'opacity'],
      opacityValue: '$mat.opacity',
    });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function seeObj(files: Files, goal: Goal): Promise<Look> {
  const values = new Map<string, number[]>();
  const images = new Map<string, Sample>();
  for (const line of textOf(files, '.mtl').split('\n')) {
    const [word, ...rest] = line.trim().split(/\s+/);
    if (/^(map_|norm|disp|bump)/i.test(word))
      images.set(word, await sampler(rest.at(-1) as string, files.get(rest.at(-1) as string)));
    else if (word !== 'newmtl') values.set(word, rest.map(Number));
  }
  return seeClassic({ value: (name) => values.get(name), image: (name) => images.get(name) }, goal, {
    base: ['map_Kd'],
    baseValue: ['Kd'],
    specular: ['map_Ks'],
    specularValue: ['Ks'],
    specularScale: '',
    strength: ['map_Ks'],
    glossiness: ['map_Ns'],
    exponent: 'Ns',
    opacity: ['map_d'],
    opacityValue: 'd',
  });
}

interface Words {
  base: string[];
  baseValue: string[];
  specular: string[];
  specularValue: string[];
  specularScale: string;
  strength: string[];
  glossiness: string[];
  exponent: string;
  opacity: string[];
  opacityValue: string;
}

/** Which component of which image means what, by destination. */
const PACKED: Record<string, { roughness: number; metalness: number; gloss?: boolean }> = {
  'engine-packed': { roughness: 1, metalness: 2 },
  'engine-gloss-alpha': { roughness: 3, metalness: 0, gloss: true },
  modelling: { roughness: 0, metalness: 0 },
};

function seeClassic({ value, image }: Classic, { destination }: Goal, words: Words): Look {
  const first = (names: string[]) => names.map(image).find((one) => one !== undefined);
  const colour = (names: string[]) =>
    names
      .map(value)
      .find((one) => one !== undefined)
      ?.slice(0, 3);
  const [base, specular, strength, glossiness, opacity] = [
    words.base,
    words.specular,
    words.strength,
    words.glossiness,
    words.opacity,
  ].map(first);
  const scale = value(words.specularScale)?.[0] ?? 1;
  const packed = PACKED[destination];
  return (u) => {
    const stored = base?.(u);
    const factor = colour(words.baseValue) ?? [1, 1, 1];
    const diffuse = stored ? times(fromSrgb(stored), factor) : (factor as Rgb);
    const inAlpha =
      stored?.length === 4 &&
      !['modelling', 'building-parts', 'render-specgloss', 'compositor-classic'].includes(destination);
    const seen: Found = {
      opacity: inAlpha ? stored[3] : (opacity?.(u)[0] ?? value(words.opacityValue)?.[0] ?? 1),
      transmission: value('transmission')?.[0] ?? 0,
    };
    const exponent = value(words.exponent)?.[0] ?? 0;
    if (destination === 'render-specgloss') {
      const ks = (colour(words.specularValue) ?? [0, 0, 0]).map((component) => component * scale);
      const gloss = glossiness ? glossiness(u)[0] : 1 - roughnessOf(exponent);
      return {
        ...seen,
        diffuse,
        specular: specular ? times(fromSrgb(specular(u)), ks) : (ks as Rgb),
        roughness: 1 - gloss,
      };
    }
    if (destination === 'compositor-classic') {
      const ks = (colour(words.specularValue) ?? [0, 0, 0])[0] * scale;
      return {
        ...seen,
        base: diffuse,
        strength: strength ? strength(u)[0] * (words.strength[0] === 'map_Ks' ? 1 : scale) : ks,
      };
    }
    if (!packed) return { ...seen, base: diffuse };
    const [rough, metal] = [image('roughness') ?? image('glossiness'), image('metalness')];
    const plain = (name: string, usual: number) => value(name)?.[0] ?? usual;
    const found = rough?.(u)[packed.roughness];
    const own = packed.gloss && found !== undefined ? 1 - found : found;
    return {
      ...seen,
      base: diffuse,
      metalness: metal ? metal(u)[packed.metalness] * plain('metalness', 1) : plain('metalness', 0),
      roughness:
        own === undefined ? plain('roughness', 1 - plain('glossiness', 0)) : own * plain('roughness', 1),
    };
  };
}
