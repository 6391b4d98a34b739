import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type ChannelName, createMapUse, type Material, unitValue } from '@kinkajou/core/scene/material';
import { createRandom } from '@kinkajou/demo/noise';
import { ASSET_NAMES } from '@kinkajou/demo/scramble/assets';
import { RARE_SCHEMES, SCHEMES } from '@kinkajou/demo/scramble/schemes';
import {
  type Format,
  type Loss,
  type Relation,
  type ScrambleCase,
  scramble,
} from '@kinkajou/demo/scramble/scramble';
import { recover } from './recovery.ts';

/**
 * `npm run wirings -- COUNT [FIRST]`: models whose images all lie where they are written, wired wrongly in one or
 * two ways by lot; each is handed off with safe mends alone. Tells what came out otherwise than it was painted,
 * and whether that was told. Parcels with what is wrong in silence are kept under `.data/wirings`.
 */
type Fault = (materials: readonly Material[], random: () => number) => string | null;

const FORMATS: readonly Format[] = ['fbx', 'obj', 'usd', 'gltf'];
const RELATIONS: readonly Relation[] = [
  'same',
  'decorated',
  'suffixed',
  'assetInSet',
  'reordered',
  'joined',
  'counted',
  'folder',
  'folderOnly',
  'parts',
  'last',
  'numbered',
  'layout',
];
const LOSSES: readonly Loss[] = [
  'none',
  'none',
  'none',
  'windows',
  'moved',
  'type',
  'case',
  'version',
  'oneLost',
];
const PACKED = ['engine', 'arm'];

const pick = <T>(list: readonly T[], random: () => number): T => list[Math.floor(random() * list.length)];
const mapped = ({ channels }: Material) =>
  (Object.keys(channels) as ChannelName[]).filter((channel) => channels[channel]?.map);
const imageOf = (material: Material, channel: ChannelName) => material.channels[channel]?.map?.image;

function put(material: Material, channel: ChannelName, image: string): void {
  const old = material.channels[channel];
  material.channels[channel] = {
    value: old?.value ?? unitValue(channel),
    map: old?.map ? { ...old.map, image } : createMapUse(image, channel, {}),
    source: { from: 'file', detail: '' },
  };
}

function move(material: Material, from: ChannelName, to: ChannelName): void {
  const image = imageOf(material, from);
  if (!image) return;
  delete material.channels[from];
  put(material, to, image);
}

const FAULTS: Record<string, Fault> = {
  none: () => 'nothing',
  swap: (materials, random) => {
    const material = pick(materials, random);
    const list = mapped(material);
    if (list.length < 2) return null;
    const a = pick(list, random);
    const b = pick(list, random);
    const [left, right] = [imageOf(material, a) as string, imageOf(material, b) as string];
    if (left === right) return null;
    put(material, a, right);
    put(material, b, left);
    return `${material.name}: ${a} and ${b} exchanged`;
  },
  lost: (materials, random) => {
    const material = pick(materials, random);
    const channel = pick(mapped(material), random);
    delete material.channels[channel];
    return `${material.name}: ${channel} not wired`;
  },
  other: (materials, random) => {
    const [a, b] = [pick(materials, random), pick(materials, random)];
    const channel = pick(mapped(a), random);
    const image = imageOf(b, channel);
    if (a === b || !image) return null;
    put(a, channel, image);
    return `${a.name}: ${channel} of ${b.name}`;
  },
  exchange: (materials, random) => {
    const [a, b] = [pick(materials, random), pick(materials, random)];
    const channel = pick(mapped(a), random);
    const [left, right] = [imageOf(a, channel), imageOf(b, channel)];
    if (a === b || !left || !right) return null;
    put(a, channel, right);
    put(b, channel, left);
    return `${a.name} and ${b.name}: ${channel} exchanged`;
  },
  wholes: (materials, random) => {
    const [a, b] = [pick(materials, random), pick(materials, random)];
    if (a === b) return null;
    [a.channels, b.channels, a.alphaMode, b.alphaMode] = [b.channels, a.channels, b.alphaMode, a.alphaMode];
    return `${a.name} and ${b.name}: all exchanged`;
  },
  component: (materials, random) => {
    const material = pick(materials, random);
    const list = mapped(material).filter((channel) => material.channels[channel]?.map?.component !== 'rgb');
    if (list.length === 0) return null;
    const channel = pick(list, random);
    const { map } = material.channels[channel] as NonNullable<Material['channels'][ChannelName]>;
    if (!map) return null;
    map.component = pick(['r', 'g', 'b', 'a'], random);
    return `${material.name}: ${channel} by ${map.component}`;
  },
  bump: (materials, random) => {
    const material = pick(materials, random);
    if (!imageOf(material, 'normal')) return null;
    move(material, 'normal', 'bump');
    return `${material.name}: normal as bump`;
  },
  also: (materials, random) => {
    const material = pick(materials, random);
    const image = imageOf(material, 'baseColor');
    if (!image) return null;
    const channel = pick(
      ['emission', 'opacity', 'bump', 'roughness', 'specularColor', 'height'] as const,
      random,
    );
    put(material, channel, image);
    return `${material.name}: the base colour's image in ${channel} too`;
  },
  elsewhere: (materials, random) => {
    const material = pick(materials, random);
    const from = pick(mapped(material), random);
    const to = pick(
      ['emission', 'bump', 'height', 'opacity', 'coat', 'sheenColor', 'transmission', 'occlusion'] as const,
      random,
    );
    if (from === to) return null;
    move(material, from, to);
    return `${material.name}: ${from} in ${to}`;
  },
  invert: (materials, random) => {
    const material = pick(materials, random);
    const channel = (['roughness', 'glossiness'] as const).find((name) => imageOf(material, name));
    const map = channel && material.channels[channel]?.map;
    if (!map) return null;
    map.invert = !map.invert;
    return `${material.name}: ${channel} inverted`;
  },
  space: (materials, random) => {
    const material = pick(materials, random);
    const channel = pick(mapped(material), random);
    const map = material.channels[channel]?.map;
    if (!map) return null;
    map.space = map.space === 'data' ? 'srgb_rec709_scene' : 'data';
    return `${material.name}: ${channel} tagged ${map.space}`;
  },
  direction: (materials, random) => {
    const material = pick(materials, random);
    const map = material.channels.normal?.map;
    if (!map) return null;
    map.normalY = map.normalY === 'Y+' ? 'Y-' : 'Y+';
    return `${material.name}: normal told ${map.normalY}`;
  },
  classic: (materials) => {
    for (const material of materials) {
      if (material.workflow !== 'metalRough') return null;
      material.workflow = 'legacy';
      material.exponent = 20;
      move(material, 'metalness', 'specularColor');
      move(material, 'roughness', 'glossiness');
      move(material, 'normal', 'bump');
    }
    return 'all classic';
  },
  baseOnly: (materials) => {
    for (const { channels } of materials)
      for (const channel of Object.keys(channels) as ChannelName[])
        if (channel !== 'baseColor') delete channels[channel];
    return 'base colours alone';
  },
  shared: (materials, random) => {
    const first = pick(materials, random);
    const channel = pick(mapped(first), random);
    const image = imageOf(first, channel) as string;
    for (const material of materials) put(material, channel, image);
    return `${channel} of ${first.name} for all`;
  },
  tint: (materials, random) => {
    const { channels, name } = pick(materials, random);
    if (!channels.baseColor) return null;
    channels.baseColor.value = [0.5, 0.5, 0.5];
    return `${name}: tinted`;
  },
  factor: (materials, random) => {
    const { channels, name } = pick(materials, random);
    const channel = pick(Object.keys(channels) as ChannelName[], random);
    const found = channels[channel];
    if (!found?.map || channel === 'normal') return null;
    const value = 0;
    found.value = Array.isArray(found.value) ? [value, value, value] : value;
    return `${name}: ${channel} times ${value}`;
  },
  clear: (materials, random) => {
    const { channels, name } = pick(materials, random);
    if (channels.opacity) return null;
    channels.opacity = { value: 0, map: null, source: { from: 'file', detail: '' } };
    return `${name}: clear`;
  },
  metal: (materials, random) => {
    const { channels, name } = pick(materials, random);
    channels.metalness = { value: 1, map: null, source: { from: 'file', detail: '' } };
    return `${name}: metal all over`;
  },
  unwired: (materials, random) => {
    const material = pick(materials, random);
    material.channels = {};
    return `${material.name}: nothing wired`;
  },
  classicOne: (materials, random) => {
    const material = pick(materials, random);
    if (material.workflow !== 'metalRough') return null;
    material.workflow = pick(['legacy', 'specGloss'], random);
    move(material, 'metalness', 'specularColor');
    move(material, 'roughness', 'glossiness');
    return `${material.name}: ${material.workflow}`;
  },
  relabel: (materials, random) => {
    const material = pick(materials, random);
    const old = material.workflow;
    material.workflow = pick(['legacy', 'specGloss', 'metalRough'], random);
    return old === material.workflow ? null : `${material.name}: called ${material.workflow}`;
  },
  alpha: (materials, random) => {
    const material = pick(materials, random);
    material.alphaMode = pick(['opaque', 'mask', 'blend'], random);
    return `${material.name}: ${material.alphaMode}`;
  },
};

const root = join(fileURLToPath(new URL('..', import.meta.url)), '.data', 'wirings');

async function tryOne(
  seed: number,
  folder: string,
): Promise<{ channels: number; right: number; silent: number }> {
  const random = createRandom(seed * 7919 + 1);
  for (let i = 0; i < 3; i += 1) random();
  const format = pick(FORMATS, random);
  const scheme = format === 'gltf' ? pick(PACKED, random) : pick([...SCHEMES, ...RARE_SCHEMES], random).id;
  const of: ScrambleCase = {
    kind: `w${seed}`,
    asset: pick(ASSET_NAMES, random),
    scheme,
    relation: pick(RELATIONS, random),
    loss: pick(LOSSES, random),
    format,
  };
  const told: string[] = [];
  const parcel = await scramble(of, (materials) => {
    const count = random() < 0.5 ? 1 : 2;
    for (let i = 0; i < count; i += 1) {
      const what = FAULTS[pick(Object.keys(FAULTS), random)](materials, random);
      if (what) told.push(what);
    }
  });
  const { measured, questions, verdict } = await recover(of, folder, parcel);
  const bad = measured.filter(({ outcome }) => outcome !== 'right');
  const silent = bad.filter(({ told: isTold }) => !isTold);
  if (bad.length > 0 || questions.length > 0) {
    console.log(`${parcel.id} (${verdict}): ${told.join('; ')}`);
    for (const { material, channel, outcome, told: isTold, difference } of bad)
      console.log(
        `  ${isTold ? '' : 'SILENT '}${material}, ${channel}: ${outcome} ${difference?.toFixed(1) ?? ''}`,
      );
    for (const { code, subject, message } of questions)
      console.log(`  asked: ${code} ${subject}: ${message}`);
  }
  if (silent.length > 0)
    for (const [path, bytes] of Object.entries(parcel.files)) {
      const file = join(root, String(seed), path);
      await mkdir(dirname(file), { recursive: true });
      await writeFile(file, bytes);
    }
  return { channels: measured.length, right: measured.length - bad.length, silent: silent.length };
}

const [count = 20, first = Date.now() % 1_000_000] = process.argv.slice(2).map(Number);
const folder = await mkdtemp(join(tmpdir(), 'kinkajou-wirings-'));
const sum = { channels: 0, right: 0, silent: 0 };
for (let seed = first; seed < first + count; seed += 1) {
  try {
    const { channels, right, silent } = await tryOne(seed, folder);
    sum.channels += channels;
    sum.right += right;
    sum.silent += silent;
  } catch (error) {
    console.log(`${seed}: ${String(error)}`);
  }
}
await rm(folder, { recursive: true, force: true });
console.log(`${sum.channels} channels, ${sum.right} right, ${sum.silent} otherwise in silence`);
