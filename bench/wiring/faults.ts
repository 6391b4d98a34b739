import { type ChannelName, createMapUse, type Material, unitValue } from '@kinkajou/core/scene/material';

/** Chance in 0..1. */
export type Chance = () => number;

/**
 * Something wrong with what materials read, done in place. Tells what was done; null where it could not be.
 */
export type Fault = (materials: readonly Material[], random: Chance) => string | null;

/** One of a list by chance; of an empty one nothing, whatever its type says. */
export function pick<T>(list: readonly T[], random: Chance): T {
  return list[Math.floor(random() * list.length)];
}

function mapped({ channels }: Material): ChannelName[] {
  return (Object.keys(channels) as ChannelName[]).filter((channel) => channels[channel]?.map);
}

function imageOf(material: Material, channel: ChannelName): string | undefined {
  return material.channels[channel]?.map?.image;
}

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

/** Ways in which images are wired wrongly, by name. */
export const FAULTS: Readonly<Record<string, Fault>> = {
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
    if (!channel) return null;
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
    if (!from || from === to) return null;
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
    const image = imageOf(first, channel);
    if (!image) return null;
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
    found.value = Array.isArray(found.value) ? [0, 0, 0] : 0;
    return `${name}: ${channel} times 0`;
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
