import earcut from 'earcut';
import { Cloud } from '../../compare/cloud.ts';
import type { ModelSide } from '../../compare/compareModels.ts';
import { plainName } from '../../compare/worldParts.ts';
import { fileName } from '../../parcel/fileSource.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import { layerEntry, type PolygonMesh, type SceneDocument, type Vec3 } from '../../scene/document.ts';
import type { ChannelName, Material } from '../../scene/material.ts';
import { type Bounds, measureBounds } from '../../scene/measure.ts';
import { shearedBelow } from '../../scene/sheared.ts';
import { cross, dot, normalised } from '../../scene/vectors.ts';
import type { PackageFiles } from '../write/writeGltf.ts';
import type { OriginalFile } from '../write/writePackage.ts';
import { countPlaced, type HandoffCheck } from './readBack.ts';
import { contentOf, type SeenMaterial, type SeenModel, type Slot, threeOpens } from './secondReader.ts';

/** Single floats, and files with six digits. */
const UV_TOLERANCE = 1e-4;
/** Which of several near places stands for them differs by rounding alone. */
const UV_REACH = UV_TOLERANCE * 1.5;
const SHAPE_TOLERANCE = 0.005;
/** Sine of the angle below which three corners count as lying in a line. */
const IN_LINE = 1e-6;
/** Corners nearer to each other than this share of how far out they lie are at one place in single floats. */
const ONE_PLACE = 4e-7;

/** Channels whose image may lie in a slot of the other reader. */
const SERVES: Record<Slot, readonly ChannelName[]> = {
  map: ['baseColor'],
  normalMap: ['normal'],
  bumpMap: ['bump', 'height', 'normal'],
  displacementMap: ['height', 'bump'],
  specularMap: ['specularColor', 'specular', 'roughness', 'glossiness', 'metalness'],
  emissiveMap: ['emission'],
  alphaMap: ['opacity'],
  roughnessMap: ['roughness', 'glossiness'],
  metalnessMap: ['metalness'],
  aoMap: ['occlusion'],
};

/** Slots in which the other reader must show the image of a channel, by format; any one of them will do. */
const SHOWS: Record<SceneDocument['format'], Partial<Record<ChannelName, readonly Slot[]>>> = {
  fbx: { baseColor: ['map'], normal: ['normalMap', 'bumpMap'], emission: ['emissiveMap'] },
  obj: { baseColor: ['map'], normal: ['normalMap', 'bumpMap'], emission: ['emissiveMap'] },
  usd: {
    baseColor: ['map'],
    normal: ['normalMap'],
    emission: ['emissiveMap'],
    roughness: ['roughnessMap'],
    metalness: ['metalnessMap'],
    occlusion: ['aoMap'],
  },
  gltf: {
    baseColor: ['map'],
    normal: ['normalMap'],
    emission: ['emissiveMap'],
    roughness: ['roughnessMap'],
    metalness: ['metalnessMap'],
    occlusion: ['aoMap'],
  },
};

/**
 * The model as somebody else's reader has it against how we read it: triangles and proportions, which faces
 * have which material, their UVs, and the image in each slot. `original` is the source file, where it was
 * changed itself: what that reader cannot open there it need not open here.
 */
export async function secondOpinion(
  files: PackageFiles,
  model: string,
  side: ModelSide,
  original?: OriginalFile,
): Promise<HandoffCheck[]> {
  const { document } = side;
  let seen: SeenModel;
  try {
    seen = await threeOpens(files, model, document.format);
  } catch (error) {
    if (original && !(await opened(document.format, original.bytes)))
      return [
        {
          check: READER,
          ok: true,
          expected: 'reads what it reads of the source',
          found: 'cannot open the source either',
        },
      ];
    return [
      {
        check: READER,
        ok: false,
        expected: 'reads it',
        found: `three's loader cannot open it: ${error instanceof Error ? error.message : error}`,
      },
    ];
  }
  const spare = cornersInLine(document);
  const ours = await ourMaterials(side);
  const pairs = paired(ours, seen.materials);
  const of = ({ theirs }: Pair, before: readonly SeenMaterial[]) =>
    before.filter((seenMaterial) =>
      theirs.some(({ name }) => (original?.names.get(name) ?? name) === seenMaterial.name),
    );
  const slotsFrom = (before: readonly SeenMaterial[]) =>
    pairs.flatMap((pair) => slotsOff(pair, document.format, of(pair, before)));
  const facesFrom = (before: readonly SeenMaterial[]) =>
    pairs.flatMap((pair) => facesOff(pair, of(pair, before), spare));
  const [off, faces] = [slotsFrom([]), facesFrom([])];
  const shape = shapes(document, seen, spare);
  // Only where something is off need the source be read.
  const isOff = off.length + faces.length > 0 || !shape.ok;
  const before = original && isOff ? await opened(document.format, original.bytes) : null;
  return [
    before && !shape.ok ? asInSource(shape, seen, before) : shape,
    told(
      'second reader: faces of materials',
      countOf(ours.length, 'material'),
      before ? facesFrom(before.materials) : faces,
    ),
    told(
      'second reader: UVs',
      `${countOf(ours.filter(({ uvs }) => uvs.length > 0).length, 'material')} with UVs`,
      pairs.flatMap((pair) => uvsOff(pair, document.format, spare)),
    ),
    told(
      'second reader: images in slots',
      countOf(
        seen.materials.reduce((sum, { slots }) => sum + Object.keys(slots).length, 0),
        'slot',
      ),
      before ? slotsFrom(before.materials) : off,
    ),
  ];
}

const READER = 'second reader (three)';

/** The source as the other reader has it, its images inside alone; null where it cannot open it. */
async function opened(format: SceneDocument['format'], bytes: Uint8Array): Promise<SeenModel | null> {
  try {
    return await threeOpens(new Map([['source', bytes]]), 'source', format);
  } catch {
    return null;
  }
}

const countOf = (count: number, word: string) => `${count} ${word}${count === 1 ? '' : 's'}`;

function told(check: string, expected: string, wrong: readonly string[]): HandoffCheck {
  const words = wrong.length > 4 ? [...wrong.slice(0, 4), `and ${wrong.length - 4} more`] : wrong;
  return { check, ok: wrong.length === 0, expected, found: wrong.length === 0 ? expected : words.join('; ') };
}

function shapes(document: SceneDocument, { triangles, min, max }: SeenModel, spare: number): HandoffCheck {
  const expected = countPlaced(document);
  const bounds: Bounds | null = measureBounds(document);
  const seen = max.map((value, i) => value - min[i]);
  const apart = bounds
    ? shapeApart(
        bounds.max.map((value, i) => value - bounds.min[i]),
        seen,
      )
    : 0;
  const along = spare > 0 ? `, ${spare} of them without area where corners lie in a line` : '';
  const sheared = shearedBelow(document).length + besideMirrors(document);
  const proportions =
    sheared > 0
      ? `${countOf(sheared, 'part')} stand sheared or beside a mirror, as that reader cannot have it`
      : `proportions ${(apart * 100).toFixed(2)} % apart`;
  return {
    check: READER,
    ok: triangles <= expected && triangles >= expected - spare && (sheared > 0 || apart < SHAPE_TOLERANCE),
    expected: `${expected} triangles${along}`,
    found: `${triangles} triangles, ${proportions}`,
  };
}

/** Parts that do not take over the size of what they hang on, where that mirrors: three takes the mirror over. */
function besideMirrors({ nodes }: SceneDocument): number {
  const mirrors = (index: number) => nodes[index]?.transform.scale.some((side) => side < 0);
  return nodes.filter(({ parent, transform }) => transform.inherit === 'Rrs' && mirrors(parent)).length;
}

/** What is read wrongly of the source, too, is not ours. */
function asInSource(check: HandoffCheck, now: SeenModel, before: SeenModel): HandoffCheck {
  const same = (a: readonly number[], b: readonly number[]) => a.every((value, i) => Object.is(value, b[i]));
  const ok = now.triangles === before.triangles && same(now.min, before.min) && same(now.max, before.max);
  return ok ? { ...check, ok, found: `${check.found}, as it reads the source` } : check;
}

/** How far two boxes differ in their proportions, whatever their unit and which way up they lie. */
function shapeApart(a: readonly number[], b: readonly number[]): number {
  const shares = (sides: readonly number[]) => {
    const sorted = [...sides].sort((x, y) => y - x);
    return sorted.map((side) => (sorted[0] > 0 ? side / sorted[0] : 0));
  };
  const other = shares(b);
  return Math.max(...shares(a).map((share, i) => Math.abs(share - other[i])));
}

/** Polygons whose own area is less than this share of their triangles' cross themselves, or fold over. */
const FOLDED = 0.8;

/**
 * Corners of polygons that lie in a line with their neighbours; readers may leave out the triangle that such
 * a corner makes. All triangles of a polygon that crosses itself, which readers cut as they can.
 */
function cornersInLine(document: SceneDocument): number {
  const perMesh = document.meshes.map(({ points, faceCounts, faceCorners }) => {
    let [spare, start] = [0, 0];
    for (const count of faceCounts) {
      if (count > 3) spare += leftOut({ points, faceCorners }, start, count);
      for (let k = 0; count > 3 && k < count; k += 1) {
        const [a, b, c] = [
          faceCorners[start + k] * 3,
          faceCorners[start + ((k + 1) % count)] * 3,
          faceCorners[start + ((k + 2) % count)] * 3,
        ];
        const [ux, uy, uz] = [
          points[b] - points[a],
          points[b + 1] - points[a + 1],
          points[b + 2] - points[a + 2],
        ];
        const [vx, vy, vz] = [
          points[c] - points[b],
          points[c + 1] - points[b + 1],
          points[c + 2] - points[b + 2],
        ];
        const across = Math.sqrt(
          (uy * vz - uz * vy) ** 2 + (uz * vx - ux * vz) ** 2 + (ux * vy - uy * vx) ** 2,
        );
        const side = ux * ux + uy * uy + uz * uz;
        // Two corners that single floats cannot tell apart are in a line with any third.
        const far = Math.max(Math.abs(points[b]), Math.abs(points[b + 1]), Math.abs(points[b + 2]));
        if (
          across <= IN_LINE * Math.sqrt(side * (vx * vx + vy * vy + vz * vz)) ||
          side <= (ONE_PLACE * far) ** 2
        )
          spare += 1;
      }
      start += count;
    }
    return spare;
  });
  return document.nodes.reduce((sum, { mesh }) => sum + (mesh < 0 ? 0 : perMesh[mesh]), 0);
}

/** A polygon whose triangles take no more area than it has, but for this share, is cut whole by everybody. */
const WHOLE = 1e-6;

/**
 * How many triangles of a polygon may be left out: all where they look different ways, however they are cut from
 * its first corner, or where it goes round the same few points again and again; else those that cannot be clipped
 * off its outline as seen from its front.
 */
function leftOut(
  { points, faceCorners }: Pick<PolygonMesh, 'points' | 'faceCorners'>,
  start: number,
  count: number,
): number {
  if (new Set(faceCorners.subarray(start, start + count)).size <= count / 2) return count - 2;
  const corners = Array.from({ length: count }, (_, k): Vec3 => {
    const index = faceCorners[start + k] * 3;
    return [points[index], points[index + 1], points[index + 2]];
  });
  const [[x, y, z]] = corners;
  const from = corners.map((corner): Vec3 => [corner[0] - x, corner[1] - y, corner[2] - z]);
  let whole: Vec3 = [0, 0, 0];
  let sum = 0;
  for (let k = 1; k + 1 < count; k += 1) {
    const triangle = cross(from[k], from[k + 1]);
    sum += Math.hypot(...triangle);
    whole = [whole[0] + triangle[0], whole[1] + triangle[1], whole[2] + triangle[2]];
  }
  const area = Math.hypot(...whole);
  if (area < FOLDED * sum) return count - 2;
  if (area >= (1 - WHOLE) * sum) return 0;
  const across = normalised(cross(whole, Math.abs(whole[0]) > 0.5 * area ? [0, 1, 0] : [1, 0, 0]));
  const up = cross(normalised(whole), across);
  const cut = earcut(from.flatMap((corner) => [dot(corner, across), dot(corner, up)]));
  return Math.max(0, count - 2 - cut.length / 3);
}

/** A material as we have it, in the other reader's terms; images by channel. */
interface OurMaterial {
  name: string;
  triangles: number;
  uvs: number[];
  images: Partial<Record<ChannelName, string>>;
}

/** Materials in use, those of the same plain name as one; faces without a material are ''. */
async function ourMaterials(side: ModelSide): Promise<OurMaterial[]> {
  const { document, materials } = side;
  const materialsByName = new Map<string, OurMaterial>();
  const contents = new Map<string, string>();
  for (const { key, resolved, written, tiles } of side.images)
    contents.set(
      key,
      resolved && !tiles ? contentOf(await side.read(resolved)) : fileName(written.replaceAll('\\', '/')),
    );
  const counted = new Set<string>();
  const ownOf = (material: Material | undefined): OurMaterial => {
    const name = material ? plainName(material.name) : '';
    const ours = materialsByName.get(name) ?? {
      name,
      triangles: 0,
      uvs: [],
      images: imagesOf(material, contents),
    };
    materialsByName.set(name, ours);
    return ours;
  };
  // Of USD that reader gives parts without a material the first that there is.
  const fallback = document.format === 'usd' ? materials[0] : undefined;
  for (const node of document.nodes) {
    const mesh = document.meshes[node.mesh];
    if (!mesh) continue;
    const again = `${node.mesh} ${node.materials.join(' ')}`;
    const uvs = mesh.uvSets[0] ?? null;
    let corner = 0;
    const bySlot = new Map<number, OurMaterial>();
    mesh.faceCounts.forEach((count, face) => {
      const slot = mesh.faceMaterial ? mesh.faceMaterial[face] : 0;
      const ourMaterial = bySlot.get(slot) ?? ownOf(materials[node.materials[slot] ?? -1] ?? fallback);
      bySlot.set(slot, ourMaterial);
      ourMaterial.triangles += Math.max(0, count - 2);
      for (let k = 0; k < count; k += 1, corner += 1) {
        if (!uvs || counted.has(again)) continue;
        const index = layerEntry(uvs, corner, mesh.faceCorners[corner], face) * uvs.size;
        ourMaterial.uvs.push(uvs.values[index], uvs.values[index + 1]);
      }
    });
    counted.add(again);
  }
  return [...materialsByName.values()].filter(({ triangles }) => triangles > 0);
}

function imagesOf(
  material: Material | undefined,
  contents: ReadonlyMap<string, string>,
): OurMaterial['images'] {
  const out: OurMaterial['images'] = {};
  for (const [channel, { map }] of Object.entries(material?.channels ?? {}))
    if (map) out[channel as ChannelName] = contents.get(map.image) ?? '';
  return out;
}

interface Pair {
  title: string;
  ours: OurMaterial[];
  theirs: SeenMaterial[];
}

/** By name where the other reader keeps names; else by what lies in their base colour. */
function paired(ours: readonly OurMaterial[], theirs: readonly SeenMaterial[]): Pair[] {
  const named = theirs.some(({ name }) => name !== '');
  const ourKey = ({ name, images }: OurMaterial) => (named ? name : (images.baseColor ?? ''));
  const theirKey = ({ name, slots }: SeenMaterial) => imageName(named, name, slots);
  const keys = new Set([...ours.map(ourKey), ...theirs.map(theirKey)]);
  return [...keys].map((key) => {
    const ofKey = ours.filter((material) => ourKey(material) === key);
    return {
      title: ofKey.map(({ name }) => name || 'no material').join(', ') || key || 'no material',
      ours: ofKey,
      theirs: theirs.filter((material) => theirKey(material) === key),
    };
  });
}

function imageName(named: boolean, name: string, slots: Record<string, string>) {
  if (named) return name === '' ? '' : plainName(name);
  return slots.map ?? '';
}

/** Where the other reader has other faces than we, and had others in a source that was changed itself. */
function facesOff({ title, ours, theirs }: Pair, before: readonly SeenMaterial[], spare: number): string[] {
  const [expected, actual, inSource] = [ours, theirs, before].map((list) =>
    list.reduce((sum, { triangles }) => sum + triangles, 0),
  );
  const isAsBefore = before.length > 0 && actual === inSource;
  return isAsBefore || (actual <= expected && actual >= expected - spare)
    ? []
    : [`${title} has ${actual} triangles, not ${expected}`];
}

/**
 * Every corner's UV lies where one of the other lies. glTF counts v downwards in its file, and its readers
 * keep that.
 */
function uvsOff({ title, ours, theirs }: Pair, format: SceneDocument['format'], spare: number): string[] {
  const gather = (lists: readonly { uvs: readonly number[] }[], flip: boolean) => {
    const cloud = new Cloud(UV_TOLERANCE);
    for (const { uvs } of lists)
      for (let i = 0; i < uvs.length; i += 2) cloud.add(uvs[i], flip ? 1 - uvs[i + 1] : uvs[i + 1], 0);
    return cloud;
  };
  const [ownCloud, other] = [gather(ours, false), gather(theirs, format === 'gltf')];
  const missing = (from: Cloud, to: Cloud) => {
    const off: [number, number][] = [];
    for (let i = 0; i < from.size; i += 1) {
      const [u, v] = [from.places[i * 3], from.places[i * 3 + 1]];
      if (to.find(u, v, 0, UV_REACH) < 0) off.push([u, v]);
    }
    return off;
  };
  // One point for all corners says as little as none: so faces without UVs are read beside others of their mesh, at
  // the origin of the file.
  if (ownCloud.size <= 1 && other.size === 0) return [];
  const said = ([u, v]: [number, number]) => u !== 0 || v !== (format === 'gltf' ? 1 : 0);
  const [lost, added] = [missing(ownCloud, other).filter(said).length, missing(other, ownCloud).length];
  return lost <= spare && added === 0
    ? []
    : [`${title}: ${lost} of ${ownCloud.size} UVs are not there, ${added} are there besides`];
}

/**
 * Where the other reader has other images than we. Of a source file that was changed itself, what it has as
 * it had in the source is no fault: an image inside that it takes for another slot's, or one that it never
 * sees.
 */
function slotsOff(
  { title, ours, theirs }: Pair,
  format: SceneDocument['format'],
  before: readonly SeenMaterial[],
): string[] {
  const wrong = new Set<string>();
  const asBefore = (slot: string) => {
    const [then, now] = [before, theirs].map((list) => new Set(list.map(({ slots }) => slots[slot] ?? '')));
    return before.length > 0 && [...now].every((content) => then.has(content));
  };
  for (const { slots } of theirs)
    for (const [slot, content] of Object.entries(slots)) {
      const serves = SERVES[slot as Slot];
      if (
        !asBefore(slot) &&
        !ours.some(({ images }) => serves.some((channel) => images[channel] === content))
      )
        wrong.add(`${title}: another image lies in ${slot}`);
    }
  for (const { images } of ours)
    for (const [channel, slots] of Object.entries(SHOWS[format])) {
      const content = images[channel as ChannelName];
      if (content === undefined || slots.every(asBefore)) continue;
      if (!theirs.some((material) => slots.some((slot) => material.slots[slot] === content)))
        wrong.add(`${title}: the image of ${channelInWords(channel)} is not there`);
    }
  return [...wrong];
}
