import type { AssetImage } from '../asset/asset.ts';
import { DecodedImages } from '../images/decodedImages.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { materialsUnderColours } from '../scene/colours.ts';
import type { SceneDocument, SceneNode } from '../scene/document.ts';
import { type ChannelName, type MapUse, type Material, showsColours } from '../scene/material.ts';
import { setPlace } from '../scene/setPlace.ts';
import { transformUv } from '../scene/uvTransform.ts';
import type { AspectKind } from './aspects.ts';
import type { Reading } from './channelField.ts';
import { compareGeometry } from './compareGeometry.ts';
import { compareHierarchy } from './compareHierarchy.ts';
import { type ChannelDifference, type CompareOptions, compareMaterials } from './compareMaterials.ts';
import { comparePlaces } from './comparePlaces.ts';
import { compareRig } from './compareRig.ts';
import { compareViews } from './compareViews.ts';
import { type Difference, difference } from './difference.ts';
import { sizeOf } from './extent.ts';
import { createMaterialPairs } from './pairMaterials.ts';
import type { MaterialDifference } from './verdict.ts';
import { worldParts } from './worldParts.ts';

/** A model as somebody reads it. */
export interface ModelSide {
  document: SceneDocument;
  materials: readonly Material[];
  images: readonly AssetImage[];
  read(path: string): Promise<Uint8Array>;
}

/** Everything in which two models differ. */
export interface ModelComparison {
  differences: Difference[];
  /** Every channel with its numbers, the same ones too. */
  channels: MaterialDifference[];
}

/** What is compared, and what belongs together although it is named otherwise. */
export interface ModelCompareOptions extends CompareOptions {
  /** Compare materials alone where it was done before. */
  geometry?: boolean;
  /** Names of parts and clips count, as they do in packages: programs find them by name. */
  names?: boolean;
  progress?: (done: number, total: number) => void;
  /**
   * Names that a material of the first has in the second, and in the first's document; its own unless told.
   */
  namesOf?(material: Material): readonly string[];
  /** How far one channel may be off, in 0..1 of its range, where it is not as far as all others. */
  limitOf?(material: Material, channel: string): number | undefined;
  /**
   * Pairs of materials that were compared before, with the same images: those that say the same are not
   * looked at again.
   */
  looked?: Map<string, Looks>;
}

interface Looks {
  channels: ChannelDifference[];
  differences: Difference[];
}

/** Images of other sizes are met in regions; single places differ by resampling, their means must not. */
const RESCALED = 8 / 255;
/** Lengths count as the same within this share of their range. */
const LENGTH = 1 / 512;

/**
 * Compares two models: geometry part by part, what hangs on what, skins, shapes and clips; every channel of
 * every material as a shader reads it, how images are placed and wrapped, alpha and sides. `limit` is how far
 * a channel may be off, in 0..1 of its range.
 */
export async function compareModels(
  a: ModelSide,
  b: ModelSide,
  options: ModelCompareOptions = {},
): Promise<ModelComparison> {
  const { geometry = true, names: namesCount = false, namesOf = ({ name }: Material) => [name] } = options;
  const decoded = options.decoded ?? new DecodedImages();
  const differences = geometry ? compareShapes(a.document, b.document, namesCount) : [];
  differences.push(...lostImages(b));
  const channels: MaterialDifference[] = [];
  const pairOf = createMaterialPairs(a, b);
  const coloured = new Set([...materialsUnderColours(a.document)].map((i) => a.document.materials[i]?.name));
  for (const [i, first] of a.materials.entries()) {
    options.progress?.(i, a.materials.length);
    const names = namesOf(first);
    const matches = names.flatMap((name) => pairOf(first, name) ?? []);
    // What no part has may be left out, but where it is kept it must be right; sides may be words of parts.
    const used = isUsed(names, a.document);
    if (matches.length < names.length && used) {
      const [lost] = names.filter((name) => !pairOf(first, name));
      differences.push(
        difference('channel.missing', `the material ${lost} is not there`, { material: first.name }),
      );
    }
    for (const second of distinctLooks(matches)) {
      const compared = await compareLooks(
        { material: first, side: a, names },
        { material: second, side: b, names: [second.name] },
        { ...options, decoded },
      );
      if (second === matches[0]) channels.push({ material: first.name, channels: compared.channels });
      differences.push(...compared.differences.filter(({ code }) => used || code !== 'sides'));
      if (names.some((name) => coloured.has(name))) differences.push(...compareColours(first, second));
    }
  }
  return { differences, channels };
}

function compareShapes(a: SceneDocument, b: SceneDocument, names: boolean): Difference[] {
  const parts = worldParts(a);
  return [
    ...compareGeometry(parts, worldParts(b), { names }),
    ...compareHierarchy(a, b),
    ...comparePlaces(a, b, { size: sizeOf(parts), names }),
    ...compareViews(a, b),
    ...compareRig(a, b, { names }),
  ];
}

/** Copies that say the same in all but the name are looked at once. */
function distinctLooks(materials: readonly Material[]): Material[] {
  const seen = new Set<string>();
  return materials.filter((material) => {
    const look = JSON.stringify({ ...material, name: '', key: '' });
    return !seen.has(look) && seen.add(look);
  });
}

/** A material with the model that it is in and its names there. */
interface Placed {
  material: Material;
  side: ModelSide;
  names: readonly string[];
}

async function compareLooks(first: Placed, second: Placed, options: ModelCompareOptions): Promise<Looks> {
  const { looked } = options;
  if (!looked) return lookAtBoth(first, second, options);
  const key = JSON.stringify(
    [first, second].map(({ material, side }) => [material, side.document.metresPerUnit]),
  );
  const looks = looked.get(key) ?? (await lookAtBoth(first, second, options));
  looked.set(key, looks);
  return looks;
}

async function lookAtBoth(first: Placed, second: Placed, options: ModelCompareOptions): Promise<Looks> {
  const [a, b] = [first.material, second.material];
  const channels = await compareMaterials(
    { material: a, reading: readingOf(first.side) },
    { material: b, reading: readingOf(second.side) },
    options,
  );
  const limited = channels.map((channel) => ({
    ...channel,
    limit: options.limitOf?.(a, channel.channel) ?? channel.limit,
  }));
  const differences = limited.flatMap((channel) => channelDifference(a, b, channel));
  return {
    channels: limited,
    differences: [...differences, ...compareUses(first, second), ...compareAlpha(a, b)],
  };
}

function isUsed(names: readonly string[], { materials, nodes }: SceneDocument): boolean {
  return nodes.some(
    (node) => node.mesh >= 0 && node.materials.some((index) => names.includes(materials[index]?.name)),
  );
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
        Object.entries(material.channels).flatMap(([channel, content]) =>
          content.map?.image === key ? [{ material: material.name, channel }] : [],
        ),
      )[0];
      return slot
        ? [difference('file.missing', `the image ${written} is not there`, { ...slot, measured: written })]
        : [];
    });
}

function channelDifference(
  a: Material,
  b: Material,
  { channel, kind, a: first, b: second, largest, sizes, limit, mean, beyond }: ChannelDifference,
): Difference[] {
  const rescaled = sizes[0] !== sizes[1] && sizes.every((size) => size !== 'no image');
  const apart = rescaled ? Math.max(...first.map((value, k) => Math.abs(value - second[k]))) : largest;
  const allowed = allowedOf(kind, limit, first, rescaled);
  if (apart <= allowed && !(rescaled && mean > allowed)) return [];
  const name = channel as ChannelName;
  const lost =
    a.channels[name] !== undefined &&
    b.channels[name] === undefined &&
    !['diffuse', 'reflectance', 'highlight', 'roughness'].includes(channel);
  const where = { material: a.name, channel, measured: apart, allowed };
  if (lost)
    return [difference('channel.missing', `${a.name}: ${channelInWords(channel)} is not there`, where)];
  const share = `${(beyond * 100).toFixed(1)}% of it is beyond ${allowed.toPrecision(2)}`;
  return [
    difference(
      'channel.differs',
      `${a.name}: ${channelInWords(channel)} differs by up to ${apart.toPrecision(3)}; ${share}`,
      where,
    ),
  ];
}

function allowedOf(kind: AspectKind, limit: number, first: number[], rescaled: boolean) {
  if (kind === 'length') return Math.max(limit, LENGTH * Math.max(...first.map(Math.abs)));
  return rescaled ? RESCALED : limit;
}

/** Where images lie on the model and how they go on beyond their edges. */
function compareUses(placedA: Placed, placedB: Placed): Difference[] {
  const [a, b] = [placedA.material, placedB.material];
  return (Object.keys(a.channels) as ChannelName[]).flatMap((channel) => {
    const [first, second] = [a.channels[channel]?.map, b.channels[channel]?.map];
    if (!first || !second) return [];
    const where = { material: a.name, channel };
    const out: Difference[] = [];
    const off = transformOff(first, second);
    if (off > TRANSFORM)
      out.push(
        difference(
          'use.transform',
          `${a.name}: the image of ${channelInWords(channel)} is placed otherwise`,
          {
            ...where,
            measured: off,
            allowed: TRANSFORM,
          },
        ),
      );
    const sets = [uvIndex(first, placedA), uvIndex(second, placedB)];
    // What lay nowhere may come to lie somewhere.
    if (sets[0] !== null && sets[1] !== null && sets[0] !== sets[1] && sets[0] !== NOWHERE)
      out.push(
        difference(
          'use.uvSet',
          `${a.name}: the image of ${channelInWords(channel)} lies on ${setInWords(sets[1])}, not ${sets[0] + 1}`,
          {
            ...where,
            measured: sets[1] + 1,
            allowed: sets[0] + 1,
          },
        ),
      );
    if (first.wrap.join() !== second.wrap.join())
      out.push(
        difference(
          'use.wrap',
          `${a.name}: the image of ${channelInWords(channel)} goes on by ${second.wrap.join(' and ')}, not ${first.wrap.join(' and ')}`,
          {
            ...where,
            measured: second.wrap.join(' '),
            allowed: first.wrap.join(' '),
          },
        ),
      );
    if (first.filter !== second.filter)
      out.push(
        difference(
          'use.filter',
          `${a.name}: the texels of ${channelInWords(channel)} are taken ${filterInWords(second)}, not ${filterInWords(first)}`,
          { ...where, measured: filterInWords(second), allowed: filterInWords(first) },
        ),
      );
    return out;
  });
}

function filterInWords({ filter }: MapUse): string {
  return filter === 'nearest' ? 'one by one' : 'smoothly';
}

const TRANSFORM = 1e-4;

/** The largest difference of where two placements put the corners of the unit square. */
function transformOff(a: MapUse, b: MapUse): number {
  const corners: [number, number][] = [
    [0, 0],
    [1, 0],
    [0, 1],
  ];
  return Math.max(
    ...corners.map(([u, v]) =>
      Math.hypot(
        ...transformUv(a.transform, u, v).map((value, k) => value - transformUv(b.transform, u, v)[k]),
      ),
    ),
  );
}

const NOWHERE = -1;

function setInWords(index: number): string {
  return index === NOWHERE ? 'no UV set' : `UV set ${index + 1}`;
}

/**
 * Number of the UV set that a use reads, from 0, on the first mesh that has it of those that the material is on;
 * NOWHERE if it reads none, null where no mesh could tell.
 */
function uvIndex({ uvSet, unplaced }: MapUse, { names, side }: Placed): number | null {
  if (unplaced) return NOWHERE;
  if (uvSet === null) return 0;
  const { nodes, meshes, materials } = side.document;
  const isOn = ({ materials: slots }: SceneNode) =>
    slots.some((index) => names.includes(materials[index]?.name));
  const place = setPlace(side.document, uvSet, isOn);
  if (place >= 0) return place;
  if (!nodes.some((node) => node.mesh >= 0 && meshes[node.mesh].uvSets.length > 0 && isOn(node))) return null;
  // Programs fall back on the first set, save in USD.
  const fallback = side.document.format === 'usd' ? NOWHERE : 0;
  return Number(/^TEXCOORD_(\d+)$/.exec(uvSet)?.[1] ?? fallback);
}

function compareAlpha(a: Material, b: Material): Difference[] {
  const out: Difference[] = [];
  const where = { material: a.name, channel: 'opacity' };
  if (a.alphaMode !== b.alphaMode)
    out.push(
      difference('alpha.mode', `${a.name} is set to ${b.alphaMode}, not ${a.alphaMode}`, {
        ...where,
        measured: b.alphaMode,
        allowed: a.alphaMode,
      }),
    );
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
      difference(
        'sides',
        `${a.name} shows ${b.doubleSided ? 'both sides' : 'one side'}, not ${a.doubleSided ? 'both' : 'one'}`,
        {
          material: a.name,
          measured: b.doubleSided ? 2 : 1,
          allowed: a.doubleSided ? 2 : 1,
        },
      ),
    );
  return out;
}

/** Whether two materials show the colours of the parts that they are on. */
function compareColours(a: Material, b: Material): Difference[] {
  const [wanted, found] = [a, b].map((material) => (showsColours(material) ? 'shown' : 'passed over'));
  if (wanted === found) return [];
  return [
    difference('colours', `${a.name}: the colours of its parts are ${found}, not ${wanted}`, {
      material: a.name,
      measured: found,
      allowed: wanted,
    }),
  ];
}

const CUTOFF = 1e-3;
