import type { AssetImage } from '../asset/asset.ts';
import type { SceneDocument } from '../scene/document.ts';
import type { ChannelName, MapUse, Material } from '../scene/material.ts';
import type { Reading } from './channelField.ts';
import { compareGeometry } from './compareGeometry.ts';
import { type ChannelDifference, type CompareOptions, compareMaterials } from './compareMaterials.ts';
import { type Difference, difference } from './difference.ts';
import type { MaterialDifference } from './verdict.ts';
import { worldParts } from './worldParts.ts';

/** A model as somebody reads it. */
export interface ModelSide {
  document: SceneDocument;
  materials: readonly Material[];
  images: readonly AssetImage[];
  read(path: string): Promise<Uint8Array>;
}

export interface ModelComparison {
  differences: Difference[];
  /** Every channel with its numbers, the same ones too. */
  channels: MaterialDifference[];
}

export interface ModelCompareOptions extends CompareOptions {
  /** Compare materials alone where it was done before. */
  geometry?: boolean;
  progress?: (done: number, total: number) => void;
}

/** Images of other sizes are met in regions; single places differ by resampling, their means must not. */
const RESCALED = 8 / 255;
/** Lengths count as the same within this share of their range. */
const LENGTH = 1 / 512;

/**
 * Compares two models: geometry part by part, every channel of every material as a shader reads it, how images are placed
 * and wrapped, alpha and sides. Materials are matched by name. `limit` is how far a channel may be off, in 0..1 of its
 * range.
 */
export async function compareModels(a: ModelSide, b: ModelSide, { geometry = true, ...options }: ModelCompareOptions = {}): Promise<ModelComparison> {
  const differences = geometry ? compareGeometry(worldParts(a.document), worldParts(b.document)) : [];
  const channels: MaterialDifference[] = [];
  const used = a.materials.filter((material) => isUsed(material, a.document));
  const missing = lostImages(b);
  differences.push(...missing);
  for (const [i, one] of used.entries()) {
    options.progress?.(i, used.length);
    const two = b.materials.find(({ name }) => plain(name) === plain(one.name));
    if (!two) {
      differences.push(difference('channel.missing', `the material ${one.name} is not there`, { material: one.name }));
      continue;
    }
    const compared = await compareMaterials(one, readingOf(a), two, readingOf(b), options);
    channels.push({ material: one.name, channels: compared });
    differences.push(...compared.flatMap((channel) => channelDifference(one, two, channel)));
    differences.push(...compareUses(one, a, two, b), ...compareAlpha(one, two));
  }
  return { differences, channels };
}

function isUsed({ key }: Material, { materials, nodes }: SceneDocument): boolean {
  const index = materials.findIndex((material) => material.key === key);
  return nodes.some((node) => node.mesh >= 0 && node.materials.includes(index));
}

/** Names as every format can write them. */
function plain(name: string): string {
  return name
    .normalize('NFC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_');
}

function readingOf({ materials, images, read, document }: ModelSide): Reading {
  return { materials, images, metresPerUnit: document.metresPerUnit, read };
}

/** Images that the model names and that are not there. */
function lostImages({ materials, images }: ModelSide): Difference[] {
  return images
    .filter(({ resolved, tiles }) => !resolved && !tiles)
    .flatMap(({ key, written }) => {
      const slot = materials.flatMap((material) =>
        Object.entries(material.channels).flatMap(([channel, content]) => (content.map?.image === key ? [{ material: material.name, channel }] : [])),
      )[0];
      return slot ? [difference('file.missing', `the image ${written} is not there`, { ...slot, measured: written })] : [];
    });
}

function channelDifference(a: Material, b: Material, { channel, kind, a: one, b: two, largest, sizes, limit, mean, beyond }: ChannelDifference): Difference[] {
  const rescaled = sizes[0] !== sizes[1] && sizes.every((size) => size !== 'no image');
  const apart = rescaled ? Math.max(...one.map((value, k) => Math.abs(value - two[k]))) : largest;
  const allowed = kind === 'length' ? Math.max(limit, LENGTH * Math.max(...one.map(Math.abs))) : rescaled ? RESCALED : limit;
  if (apart <= allowed && !(rescaled && mean > allowed)) return [];
  const name = channel as ChannelName;
  const lost = a.channels[name] !== undefined && b.channels[name] === undefined && !['diffuse', 'reflectance', 'roughness'].includes(channel);
  const where = { material: a.name, channel, measured: apart, allowed };
  if (lost) return [difference('channel.missing', `${a.name}: ${channel} is not there`, where)];
  const share = `${(beyond * 100).toFixed(1)}% of it is beyond ${allowed.toPrecision(2)}`;
  return [difference('channel.differs', `${a.name}: ${channel} differs by up to ${apart.toPrecision(3)}; ${share}`, where)];
}

/** Where images lie on the model and how they go on beyond their edges. */
function compareUses(a: Material, sideA: ModelSide, b: Material, sideB: ModelSide): Difference[] {
  return (Object.keys(a.channels) as ChannelName[]).flatMap((channel) => {
    const [one, two] = [a.channels[channel]?.map, b.channels[channel]?.map];
    if (!one || !two) return [];
    const where = { material: a.name, channel };
    const out: Difference[] = [];
    const off = transformOff(one, two);
    if (off > TRANSFORM)
      out.push(difference('use.transform', `${a.name}: the image of ${channel} is placed otherwise`, { ...where, measured: off, allowed: TRANSFORM }));
    const sets = [uvIndex(one, a, sideA.document), uvIndex(two, b, sideB.document)];
    if (sets[0] !== sets[1])
      out.push(
        difference('use.uvSet', `${a.name}: the image of ${channel} lies on UV set ${sets[1] + 1}, not ${sets[0] + 1}`, {
          ...where,
          measured: sets[1] + 1,
          allowed: sets[0] + 1,
        }),
      );
    if (one.wrap.join() !== two.wrap.join())
      out.push(
        difference('use.wrap', `${a.name}: the image of ${channel} goes on by ${two.wrap.join(' and ')}, not ${one.wrap.join(' and ')}`, {
          ...where,
          measured: two.wrap.join(' '),
          allowed: one.wrap.join(' '),
        }),
      );
    return out;
  });
}

const TRANSFORM = 1e-4;

/** The largest difference of where two placements put the corners of the unit square. */
function transformOff(a: MapUse, b: MapUse): number {
  const place = ({ transform }: MapUse, u: number, v: number): [number, number] => {
    if (!transform) return [u, v];
    const { offset, scale, rotation } = transform;
    const [x, y] = [u * scale[0], v * scale[1]];
    const [c, s] = [Math.cos(rotation), Math.sin(rotation)];
    return [x * c - y * s + offset[0], x * s + y * c + offset[1]];
  };
  const corners: [number, number][] = [
    [0, 0],
    [1, 0],
    [0, 1],
  ];
  return Math.max(...corners.map(([u, v]) => Math.hypot(...place(a, u, v).map((value, k) => value - place(b, u, v)[k]))));
}

/** Number of the UV set that a use reads, from 0, on the first mesh that the material is on. */
function uvIndex({ uvSet }: MapUse, { key }: Material, { nodes, meshes, materials }: SceneDocument): number {
  if (uvSet === null) return 0;
  const index = materials.findIndex((material) => material.key === key);
  const node = nodes.find(({ mesh, materials: own }) => mesh >= 0 && own.includes(index));
  const numbered = /^TEXCOORD_(\d+)$/.exec(uvSet);
  const found = node ? meshes[node.mesh].uvSets.findIndex(({ name }) => name === uvSet) : -1;
  return found >= 0 ? found : numbered ? Number(numbered[1]) : 0;
}

function compareAlpha(a: Material, b: Material): Difference[] {
  const out: Difference[] = [];
  const where = { material: a.name, channel: 'opacity' };
  if (a.alphaMode !== b.alphaMode)
    out.push(difference('alpha.mode', `${a.name} is set to ${b.alphaMode}, not ${a.alphaMode}`, { ...where, measured: b.alphaMode, allowed: a.alphaMode }));
  else if (a.alphaMode === 'mask' && Math.abs(a.alphaCutoff - b.alphaCutoff) > CUTOFF)
    out.push(
      difference('alpha.cutoff', `${a.name} is cut off at ${b.alphaCutoff}, not ${a.alphaCutoff}`, {
        ...where,
        measured: b.alphaCutoff,
        allowed: a.alphaCutoff,
      }),
    );
  if (a.doubleSided !== b.doubleSided)
    out.push(
      difference('sides', `${a.name} shows ${b.doubleSided ? 'both sides' : 'one side'}, not ${a.doubleSided ? 'both' : 'one'}`, {
        material: a.name,
        measured: b.doubleSided ? 2 : 1,
        allowed: a.doubleSided ? 2 : 1,
      }),
    );
  return out;
}

const CUTOFF = 1e-3;
