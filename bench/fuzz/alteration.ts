import { parseAsciiFbx } from '@kinkajou/core/formats/fbx/parseAscii';
import { isBinaryFbx, parseBinaryFbx } from '@kinkajou/core/formats/fbx/parseBinary';
import type { FbxNode, FbxProperty } from '@kinkajou/core/formats/fbx/tree';
import { writeBinaryFbx } from '@kinkajou/core/formats/fbx/writeBinary';
import sharp from 'sharp';

/** A file that was changed at one place, and the place: names, without numbers, so that alike ones count as one. */
export interface Altered {
  bytes: Uint8Array;
  place: string;
  change: string;
}

type Random = () => number;
type Json = string | number | boolean | null | Json[] | { [key: string]: Json };

const decoder = new TextDecoder();
const encoder = new TextEncoder();
const below = (random: Random, count: number) => Math.floor(random() * count);
const pick = <T>(list: readonly T[], random: Random): T => list[below(random, list.length)];
/** Another number, far enough from this one to be seen. */
const other = (value: number) => (Number.isInteger(value) ? value + 1 : value * 1.37 + 0.11);

/** Changes one place of a file as another program might; null where nothing can be changed. */
export async function altered(path: string, bytes: Uint8Array, random: Random): Promise<Altered | null> {
  if (/\.(png|tif)$/.test(path)) return alteredImage(path, bytes, random);
  if (path.endsWith('.glb')) return alteredGlb(bytes, random);
  if (path.endsWith('.fbx')) return alteredFbx(bytes, random);
  return alteredText(path, bytes, random);
}

type Pixels = { data: Buffer; width: number; height: number; channels: number };
/** What programs do to images that they only had to pass on; each leaves sizes as they are. */
const IMAGE_CHANGES: Record<string, (pixels: Pixels, channel: number) => (index: number) => number> = {
  'a component inverted':
    ({ data, channels }, channel) =>
    (i) =>
      i % channels === channel ? 255 - data[i] : data[i],
  'components in another order':
    ({ data, channels }) =>
    (i) =>
      channels < 3 ? data[data.length - 1 - i] : data[i - (i % channels) + (((i % channels) + 1) % channels)],
  'upside down':
    ({ data, width, height, channels }) =>
    (i) => {
      const row = width * channels;
      return data[(height - 1 - Math.floor(i / row)) * row + (i % row)];
    },
  mirrored:
    ({ data, width, channels }) =>
    (i) => {
      const [x, k] = [Math.floor(i / channels) % width, i % channels];
      return data[i - x * channels - k + (width - 1 - x) * channels + k];
    },
  'another gamma':
    ({ data, channels }) =>
    (i) =>
      channels === 4 && i % 4 === 3 ? data[i] : Math.round(255 * (data[i] / 255) ** 0.6),
  'a corner darkened':
    ({ data, width, height, channels }) =>
    (i) => {
      const place = Math.floor(i / channels);
      return place % width < width / 4 && place < (width * height) / 4 ? data[i] >> 1 : data[i];
    },
};

async function alteredImage(path: string, bytes: Uint8Array, random: Random): Promise<Altered | null> {
  const image = sharp(bytes);
  const { depth } = await image.metadata();
  if (depth !== 'uchar') return null;
  const { data, info } = await image.raw().toBuffer({ resolveWithObject: true });
  const change = pick(Object.keys(IMAGE_CHANGES), random);
  const pixels = { data, width: info.width, height: info.height, channels: info.channels };
  const at = IMAGE_CHANGES[change](pixels, below(random, info.channels));
  const out = Buffer.from(data.map((_, i) => at(i)));
  if (out.equals(data)) return null;
  const made = sharp(out, { raw: { width: info.width, height: info.height, channels: info.channels } });
  const packed = path.endsWith('.png') ? made.png() : made.tiff({ compression: 'none' });
  const grey = info.channels < 3 ? packed.toColourspace('b-w') : packed;
  const map = path.replace(/.*[_/]|\.\w+$/g, '');
  return { bytes: new Uint8Array(await grey.toBuffer()), place: `${map}: ${change}`, change: path };
}

const NUMBER = /(?<=^|[\s(,[=])-?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?(?=$|[\s),\]/])/gim;

/** One number of a text (OBJ, MTL, USDA) becomes another, or a whole line goes. */
function alteredText(path: string, bytes: Uint8Array, random: Random): Altered | null {
  const lines = decoder.decode(bytes).split('\n');
  const usable = lines.flatMap((line, i) => (/^\s*(#|$|[)}\]])/.test(line) ? [] : [i]));
  if (usable.length === 0) return null;
  const i = pick(usable, random);
  const place = `${path.replace(/.*\./, '')} ${lines[i].replace(/"[^"]*"|@[^@]*@|-?\d[\d.e-]*/g, '_').trim()}`;
  const numbers = [...lines[i].matchAll(NUMBER)];
  if (numbers.length === 0 || random() < 0.2) {
    const change = `- ${lines[i].trim().slice(0, 90)}`;
    lines.splice(i, 1);
    return { bytes: encoder.encode(lines.join('\n')), place: place.slice(0, 60), change };
  }
  const found = pick(numbers, random);
  const value = found[0].includes('.')
    ? other(Number(found[0]) + 1e-9).toFixed(6)
    : `${other(Number(found[0]))}`;
  const change = `${lines[i].trim().slice(0, 90)}: ${found[0]} > ${value}`;
  lines[i] = lines[i].slice(0, found.index) + value + lines[i].slice(found.index + found[0].length);
  return { bytes: encoder.encode(lines.join('\n')), place: place.slice(0, 60), change };
}

/** One number of the JSON or of the data behind it becomes another, or an entry goes. */
function alteredGlb(bytes: Uint8Array, random: Random): Altered | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = view.getUint32(12, true);
  const json = JSON.parse(decoder.decode(bytes.subarray(20, 20 + length))) as { [key: string]: Json };
  const bin = bytes.slice(20 + length + 8);
  const how = random() < 0.5 ? alterData(json, bin, random) : alterJson(json, random);
  return how && { bytes: glb(json, bin), ...how };
}

function glb(json: Json, bin: Uint8Array): Uint8Array {
  const text = JSON.stringify(json);
  const words = encoder.encode(text + ' '.repeat((4 - (encoder.encode(text).length % 4)) % 4));
  const out = new Uint8Array(28 + words.length + bin.length);
  const view = new DataView(out.buffer);
  [0x46546c67, 2, out.length, words.length, 0x4e4f534a].forEach((word, i) =>
    view.setUint32(i * 4, word, true),
  );
  out.set(words, 20);
  view.setUint32(20 + words.length, bin.length, true);
  view.setUint32(24 + words.length, 0x004e4942, true);
  out.set(bin, 28 + words.length);
  return out;
}

/** Tables whose entries say where bytes lie: what is changed there breaks the file rather than the model. */
const PLUMBING = /^(asset|buffers|bufferViews|accessors|extensionsUsed|extensionsRequired)$/;

function alterJson(json: { [key: string]: Json }, random: Random): Omit<Altered, 'bytes'> | null {
  const leaves: { holder: { [key: string]: Json }; key: string; place: string }[] = [];
  const walk = (value: Json, place: string) => {
    if (typeof value !== 'object' || value === null) return;
    for (const key of Object.keys(value)) {
      if (place === '' && PLUMBING.test(key)) continue;
      const holder = value as { [key: string]: Json };
      const next = Array.isArray(value) ? place : `${place}/${key}`;
      if (typeof holder[key] === 'object' && holder[key] !== null) walk(holder[key], next);
      else leaves.push({ holder, key, place: next });
    }
  };
  walk(json, '');
  if (leaves.length === 0) return null;
  const places = [...new Set(leaves.map(({ place }) => place))];
  const place = pick(places, random);
  const { holder, key } = pick(
    leaves.filter((leaf) => leaf.place === place),
    random,
  );
  const before = holder[key];
  if (typeof before === 'number') holder[key] = other(before);
  else if (typeof before === 'boolean') holder[key] = !before;
  else if (typeof before === 'string') holder[key] = `${before}x`;
  if (!Array.isArray(holder) && random() < 0.2) delete holder[key];
  return { place, change: `${JSON.stringify(before)} > ${JSON.stringify(holder[key])}` };
}

interface Accessor {
  bufferView?: number;
  byteOffset?: number;
  componentType: 5120 | 5121 | 5122 | 5123 | 5125 | 5126;
  count: number;
  type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT2' | 'MAT3' | 'MAT4';
  normalized?: boolean;
}
const SIZES = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
const BYTES = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };

function alterData(
  json: { [key: string]: Json },
  bin: Uint8Array,
  random: Random,
): Omit<Altered, 'bytes'> | null {
  const accessors = (json.accessors ?? []) as unknown as Accessor[];
  const views = (json.bufferViews ?? []) as unknown as { byteOffset?: number; byteStride?: number }[];
  const index = below(random, accessors.length);
  const accessor = accessors[index];
  if (accessor?.bufferView === undefined || accessor.count === 0) return null;
  const view = views[accessor.bufferView];
  const [numbers, size] = [SIZES[accessor.type], BYTES[accessor.componentType]];
  const [row, column] = [below(random, accessor.count), below(random, numbers)];
  const stride = view.byteStride ?? numbers * size;
  const offset = (view.byteOffset ?? 0) + (accessor.byteOffset ?? 0) + row * stride + column * size;
  const data = new DataView(bin.buffer, bin.byteOffset, bin.byteLength);
  const place = `data ${usesOf(json, index).join('+')}`;
  if (accessor.componentType === 5126) {
    const before = data.getFloat32(offset, true);
    const after = before * 1.37 + 0.11;
    data.setFloat32(offset, after, true);
    return { place, change: `${accessor.type} ${row}.${column}: ${before} > ${after}` };
  }
  const before = size === 4 ? data.getUint32(offset, true) : bin[offset];
  const after = accessor.normalized ? (before + 60) % 256 : before + (row % 2 === 0 && before > 0 ? -1 : 1);
  if (size === 4) data.setUint32(offset, after, true);
  else if (accessor.normalized) bin[offset + size - 1] = (bin[offset + size - 1] + 60) % 256;
  else bin[offset] = after;
  return { place, change: `${accessor.type} ${row}.${column}: ${before} > ${after}` };
}

/** The names under which the document uses an accessor. */
function usesOf(json: Json, index: number): string[] {
  const uses = new Set<string>();
  const walk = (value: Json) => {
    if (typeof value !== 'object' || value === null) return;
    for (const [key, entry] of Object.entries(value)) {
      if (entry === index && /^([A-Z]+(_\d)?|indices|input|output|inverseBindMatrices)$/.test(key))
        uses.add(key);
      else walk(entry);
    }
  };
  walk(json);
  return [...uses].sort();
}

/** Records that say what program wrote the file, and when. */
const HEADS = /^(FBXHeaderExtension|FileId|CreationTime|Creator|Definitions|Documents|References|Takes)$/;

/** One number or word of a record becomes another, or a record goes. */
function alteredFbx(bytes: Uint8Array, random: Random): Altered | null {
  const tree = isBinaryFbx(bytes) ? parseBinaryFbx(bytes) : parseAsciiFbx(bytes);
  const records: { node: FbxNode; parent: FbxNode; place: string }[] = [];
  const walk = (parent: FbxNode, place: string) => {
    for (const node of parent.children) {
      const next = `${place}/${node.name === 'P' ? String(node.properties[0]?.value) : node.name}`;
      records.push({ node, parent, place: next });
      walk(node, next);
    }
  };
  for (const node of tree.nodes) if (!HEADS.test(node.name)) walk(node, node.name);
  const places = [...new Set(records.map(({ place }) => place))];
  const place = pick(places, random);
  const { node, parent } = pick(
    records.filter((record) => record.place === place),
    random,
  );
  const from = node.name === 'P' ? 4 : 0;
  const usable = node.properties.map((_, i) => i).filter((i) => i >= from);
  if (usable.length === 0 || random() < 0.15) {
    parent.children.splice(parent.children.indexOf(node), 1);
    return { bytes: writeBinaryFbx(tree), place, change: 'gone' };
  }
  const index = pick(usable, random);
  const change = alterProperty(node.properties, index, random);
  return { bytes: writeBinaryFbx(tree), place, change: `${index}: ${change}` };
}

function alterProperty(properties: FbxProperty[], index: number, random: Random): string {
  const property = properties[index];
  const { value } = property;
  if (typeof value === 'number') property.value = property.type === 'C' ? 1 - value : other(value);
  else if (typeof value === 'bigint') property.value = value + 1n;
  else if (typeof value === 'string') property.value = `x${value}`;
  else {
    if (value.length === 0) return 'nothing';
    const at = below(random, value.length);
    const before = value[at];
    const copy = value.slice();
    copy[at] = typeof before === 'bigint' ? before + 1n : other(Number(before));
    property.value = copy as never;
    return `[${at}] ${before} > ${copy[at]}`;
  }
  return `${value} > ${property.value}`;
}
