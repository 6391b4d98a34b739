import { writeModel } from '@kinkajou/core/formats/writeModel';
import { type EncodableFormat, encodeImage } from '@kinkajou/core/images/encode';
import { createDocument, createNode, type SceneDocument } from '@kinkajou/core/scene/document';
import {
  type ChannelName,
  createMapUse,
  createMaterial,
  type Material,
  type Rgb,
  unitValue,
} from '@kinkajou/core/scene/material';
import { type ScrambleMaterial, scrambleAsset } from './assets.ts';
import { filePlanes } from './filePlanes.ts';
import { PLAIN, type Scheme, type SchemeFile, schemeOf, styled } from './schemes.ts';
import { SIDE } from './surfaces.ts';
import { writeGltfFile } from './writeGltfFile.ts';

/** How the names of materials and of image sets relate. */
export type Relation =
  | 'same'
  | 'decorated'
  | 'suffixed'
  | 'assetInSet'
  | 'reordered'
  | 'joined'
  | 'counted'
  | 'folder'
  | 'folderOnly'
  | 'parts'
  | 'layout'
  | 'last'
  | 'numbered'
  | 'atlas'
  | 'silent';

/** What is wrong with the images that the model names; `white` names none. */
export type Loss =
  | 'none'
  | 'white'
  | 'windows'
  | 'host'
  | 'moved'
  | 'type'
  | 'resolution'
  | 'version'
  | 'renamed'
  | 'case'
  | 'encoded'
  | 'rescheme'
  | 'oneLost';

/** Formats that scrambled parcels are written in. */
export type Format = 'fbx' | 'obj' | 'usd' | 'gltf';

/** How a parcel is scrambled. */
export interface ScrambleCase {
  /** The kind of trouble; figures are told by it. */
  kind: string;
  asset: string;
  scheme: string;
  relation: Relation;
  loss: Loss;
  format: Format;
  /** The same names in a second folder: in other colours, or upside down, which the UV layout tells. */
  rivals?: 'recoloured' | 'turned';
  /** A person must be asked: nothing tells which set is whose. */
  asks?: boolean;
}

/** What is true of one channel of one material. */
export interface TrueChannel {
  material: string;
  channel: ChannelName;
  /** 8-bit codes, top row first: three a pixel for colours and normals. */
  plane: Uint8Array;
  /** The file that holds it. */
  file: string;
}

/** A scrambled parcel, and what is true of it. */
export interface ScrambledParcel {
  id: string;
  files: Record<string, Uint8Array>;
  truth: TrueChannel[];
}

const GREEK = ['alder', 'birch', 'cedar', 'elder', 'hazel', 'larch'];

/** What a material's images are named by. */
export interface Named {
  material: string;
  part: string;
  set: readonly string[];
  folder: string;
  scheme: Scheme;
}

function nameOf(words: readonly string[], i: number, of: ScrambleCase, count: number): Named {
  const scheme = schemeOf(of.scheme);
  const asset = of.asset.split('_');
  const plain = styled(words, 'snake');
  const pascal = styled(words, 'pascal');
  const number = String(i + 1).padStart(3, '0');
  const named: Named = { material: plain, part: `mesh_${number}`, set: words, folder: 'textures/', scheme };
  switch (of.relation) {
    case 'decorated':
      return { ...named, material: `M_${pascal}` };
    case 'suffixed':
      return { ...named, material: i % 2 === 0 ? `${plain}_mat` : `${plain}_mat` };
    case 'assetInSet':
      return { ...named, material: pascal, set: [...asset, ...words] };
    case 'reordered':
      return { ...named, material: styled([...words].reverse(), 'snake') };
    case 'joined':
      return { ...named, material: words.join('').toUpperCase() };
    case 'counted':
      return { ...named, material: `${pascal}.001` };
    case 'folder':
      return { ...named, scheme: PLAIN, folder: `textures/${plain}/` };
    case 'folderOnly':
      return { ...named, set: asset, folder: `${pascal}/` };
    case 'parts':
      return { ...named, material: `Material.${number}`, part: plain };
    case 'layout':
      return { ...named, material: `Material.${number}`, set: [GREEK[(i * 5 + 2) % GREEK.length]] };
    case 'last':
      return i === count - 1 ? { ...named, material: 'Material' } : named;
    case 'numbered':
      return { ...named, material: `Material_${i + 1}`, set: ['tex', String(i + 1).padStart(2, '0')] };
    case 'atlas':
      return { ...named, set: asset };
    case 'silent':
      return { ...named, material: `Material.${number}`, set: [GREEK[(i * 5 + 2) % GREEK.length]] };
    default:
      return named;
  }
}

/**
 * One parcel: a model, its images, and the truth. Equal cases give equal bytes. `rewire` may change what the
 * materials read before the model is written.
 */
export async function scramble(
  of: ScrambleCase,
  rewire: (materials: readonly Material[]) => void = () => {},
): Promise<ScrambledParcel> {
  const asset = scrambleAsset(of.asset);
  const files: Record<string, Uint8Array> = {};
  const truth: TrueChannel[] = [];
  const named = asset.materials.map(({ words }, i) => nameOf(words, i, of, asset.materials.length));
  const type: EncodableFormat = of.loss === 'type' ? 'tga' : 'png';
  const extension = type === 'tga' ? 'tga' : 'png';
  const wired: Material[] = [];
  for (const [i, source] of asset.materials.entries()) {
    const { material: name, set, folder, scheme } = named[i];
    const material = createMaterial(name, scheme.specGloss ? 'specGloss' : 'metalRough');
    wired.push(material);
    const own = { ...of, scheme: scheme.id };
    for (const file of scheme.files) {
      const content = filePlanes(file, source, scheme);
      if (!content) continue;
      const path = `${folder}${fileName(file, set, scheme, own)}.${extension}`;
      files[path] = await encodeImage(
        { width: SIDE, height: SIDE, components: content.components, data: content.data },
        type,
      );
      if (of.rivals)
        files[`archive/${path}`] = await encodeImage(
          {
            width: SIDE,
            height: SIDE,
            components: content.components,
            data: of.rivals === 'turned' ? turned(content) : recoloured(content, file),
          },
          type,
        );
      for (const { channel, plane } of content.truth)
        truth.push({ material: name, channel, plane, file: path });
      writeSlots(material, file, source, writtenPath(file, set, scheme, { ...own, index: i }, path));
    }
    if (source.alpha !== 'opaque' && of.loss !== 'white') material.alphaMode = source.alpha;
  }
  rewire(wired);
  const parts = asset.materials.map(({ mesh }, i) => ({ name: named[i].part, material: i, mesh }));
  for (const [path, bytes] of modelFiles(of, parts, wired)) files[path] = bytes;
  return { id: [of.kind, of.asset, of.scheme, of.relation, of.loss, of.format].join('-'), files, truth };
}

function fileName(
  { name }: SchemeFile,
  set: readonly string[],
  { style }: Scheme,
  { loss }: ScrambleCase,
): string {
  const text = name.replace('{set}', styled(set, style));
  if (loss === 'version') return `${text}_v02`;
  return loss === 'resolution' ? `${text}_1k` : text;
}

/** The path that the model wrote, which differs from where the file lies by the kind of loss. */
function writtenPath(
  file: SchemeFile,
  set: readonly string[],
  scheme: Scheme,
  of: ScrambleCase & { index: number },
  path: string,
): string | null {
  const text = file.name.replace('{set}', styled(set, scheme.style));
  const plain = path.slice(path.lastIndexOf('/') + 1);
  switch (of.loss) {
    case 'none':
      return path;
    case 'white':
      return null;
    case 'windows':
      return `D:\\jobs\\quay\\tex\\${plain}`;
    case 'host':
      return `\\\\store\\share\\quay\\${plain}`;
    case 'moved':
      return `old/maps/${plain}`;
    case 'type':
      return `textures/${text}.png`;
    case 'resolution':
      return `maps/${text}_4k.png`;
    case 'version':
      return `maps/${text}_v01.png`;
    case 'renamed':
      return `C:\\old\\${file.name.replace('{set}', styled(['tmp', ...set], scheme.style))}.png`;
    case 'case':
      return `C:/maps/${plain.toUpperCase()}`;
    case 'encoded':
      return `file:///C:/quay%20maps/${encodeURIComponent(plain)}`;
    case 'rescheme':
      return reschemed(file, set);
    default:
      // One image of each material has another name now; the others lie where they were.
      return file.rgb === 'baseColor' ? path : `lost/${text.replace(/(\w)$/, '$1_final2')}.png`;
  }
}

/** The same set under the long scheme's words, for files that were renamed to another scheme. */
function reschemed(file: SchemeFile, set: readonly string[]): string {
  const [first] = file.slots;
  const words: Partial<Record<ChannelName, string>> = {
    baseColor: 'BaseColor',
    normal: 'Normal',
    roughness: 'Roughness',
    metalness: 'Metallic',
    occlusion: 'AO',
    emission: 'Emissive',
  };
  const word = file.slots.length > 1 ? 'OcclusionRoughnessMetallic' : (words[first.channel] ?? first.channel);
  return `D:\\jobs\\${styled(set, 'snake')}_${word}.png`;
}

function writeSlots(
  material: Material,
  file: SchemeFile,
  source: ScrambleMaterial,
  written: string | null,
): void {
  if (written === null) return;
  const use = (channel: ChannelName, component: SchemeFile['slots'][number]['component'], invert = false) => {
    material.channels[channel] = {
      value: unitValue(channel),
      map: createMapUse(written, channel, {
        component,
        invert,
        normalY: file.rgb === 'normalDown' ? 'Y-' : 'Y+',
      }),
      source: { from: 'file', detail: '' },
    };
  };
  for (const { channel, component, invert } of file.slots) use(channel, component, invert);
  if (file.alpha === 'cover' && source.planes.opacity) use('opacity', 'a');
}

/** Other pixels of the same kind and layout. */
function recoloured(
  { data, components }: { data: Uint8Array; components: number },
  { rgb }: SchemeFile,
): Uint8Array {
  const vectors = rgb === 'normal' || rgb === 'normalDown';
  return data.map((value, i) => {
    if (vectors) return i % components === 0 ? 255 - value : value;
    if (components === 4 && i % 4 === 3) return value;
    if (components === 1) return Math.round(value * 0.6) + 20;
    const k = i % components;
    return data[i - k + ((k + 1) % 3)];
  });
}

/** Other pixels of the same kind: upside down. */
function turned({ data, components }: { data: Uint8Array; components: number }): Uint8Array {
  const out = new Uint8Array(data.length);
  const row = SIDE * components;
  for (let y = 0; y < SIDE; y += 1) out.set(data.subarray(y * row, (y + 1) * row), (SIDE - 1 - y) * row);
  return out;
}

function vectorOf(value: number | Rgb | undefined, more: readonly number[]): number[] | undefined {
  return Array.isArray(value) ? [...value, ...more] : undefined;
}

function numberOf(value: number | Rgb | undefined): number | undefined {
  return typeof value === 'number' ? value : undefined;
}

function writtenPaths({ channels }: Material): string[] {
  return Object.values(channels).flatMap(({ map }) => (map ? [map.image] : []));
}

function modelFiles(
  of: ScrambleCase,
  parts: { name: string; material: number; mesh: SceneDocument['meshes'][number] }[],
  materials: readonly Material[],
): Map<string, Uint8Array> {
  if (of.format === 'gltf') {
    const specs = materials.map(({ name, alphaMode, channels }) => ({
      name,
      baseColor: channels.baseColor?.map?.image,
      metallicRoughness: channels.roughness?.map?.image,
      normal: channels.normal?.map?.image,
      occlusion: channels.occlusion?.map?.image,
      emissive: channels.emission?.map?.image,
      factors: {
        baseColor: vectorOf(channels.baseColor?.value, [1]),
        metallic: numberOf(channels.metalness?.value),
        roughness: numberOf(channels.roughness?.value),
        emissive: vectorOf(channels.emission?.value, []),
      },
      ...(alphaMode === 'opaque'
        ? {}
        : { alphaMode: alphaMode === 'mask' ? ('MASK' as const) : ('BLEND' as const) }),
    }));
    return new Map([[`${of.asset}.gltf`, writeGltfFile(parts, specs)]]);
  }
  const document: SceneDocument = {
    ...createDocument(of.format, ''),
    meshes: parts.map(({ mesh }) => mesh),
    nodes: parts.map(({ name, material }, i) =>
      createNode(name, 'mesh', -1, { mesh: i, materials: [material] }),
    ),
    materials: [...materials],
    images: [...new Set(materials.flatMap(writtenPaths))].map((written) => ({
      key: written,
      written,
      relative: null,
      embedded: null,
    })),
  };
  const extension = of.format === 'usd' ? 'usda' : of.format;
  return writeModel(document, `${of.asset}.${extension}`, {
    targetOf: ({ written }) => ({ path: written, embed: null }),
  }).files;
}
