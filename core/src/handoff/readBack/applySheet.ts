import type { AssetImage } from '../../asset/asset.ts';
import { type Difference, difference } from '../../compare/difference.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { changeWorkflow } from '../../scene/highlight.ts';
import {
  type Channel,
  type ChannelName,
  createMapUse,
  type MapUse,
  type Material,
  type Provenance,
  unitValue,
} from '../../scene/material.ts';
import { IN_EXTENSIONS } from '../plan/plan.ts';
import type { Sheet, SheetChannel, SheetMap, SheetMaterial } from '../write/sheet.ts';

/** What the sheet says of a material that the model's format cannot. */
export interface SheetWord {
  material: string;
  /** Null where it is about the material as a whole. */
  channel: ChannelName | null;
  word:
    | 'component'
    | 'inversion'
    | 'space'
    | 'direction'
    | 'image'
    | 'alpha'
    | 'sides'
    | 'shading'
    | 'height'
    | 'palette';
  value: string;
}

/** Materials as the sheet has them read, its words, and where it speaks against the model. */
export interface SheetReading {
  materials: Material[];
  words: SheetWord[];
  contradictions: Contradiction[];
}

/** A word of the sheet against what the model states. */
export interface Contradiction {
  word: SheetWord['word'];
  difference: Difference;
}

type Format = SceneDocument['format'];

/**
 * What each format states by itself of how images and materials are read; the sheet may not say otherwise.
 */
const STATES: Record<Format, ReadonlySet<SheetWord['word']>> = {
  gltf: new Set(['component', 'inversion', 'space', 'direction', 'alpha', 'sides', 'shading', 'palette']),
  usd: new Set(['component', 'inversion', 'space', 'direction', 'alpha', 'sides', 'shading']),
  obj: new Set(['component', 'inversion']),
  fbx: new Set(),
};

/** Channels whose maps each format has a place for. */
const MAPPED: Record<Format, ReadonlySet<ChannelName>> = {
  gltf: new Set([
    'baseColor',
    'metalness',
    'roughness',
    'normal',
    'occlusion',
    'emission',
    'opacity',
    ...IN_EXTENSIONS,
  ]),
  usd: new Set([
    'baseColor',
    'metalness',
    'roughness',
    'normal',
    'occlusion',
    'emission',
    'opacity',
    'height',
    'specularColor',
    'glossiness',
  ]),
  obj: new Set([
    'baseColor',
    'metalness',
    'roughness',
    'normal',
    'occlusion',
    'emission',
    'opacity',
    'height',
    'bump',
    'specularColor',
    'glossiness',
  ]),
  fbx: new Set([
    'baseColor',
    'metalness',
    'roughness',
    'normal',
    'emission',
    'opacity',
    'height',
    'bump',
    'specularColor',
    'glossiness',
  ]),
};

const ONE_BY_ONE = 'texels one by one';
const ORIGIN: Provenance = { from: 'file', detail: 'the sheet for the receiver' };

/**
 * The materials of a package as somebody reads them who follows the sheet: what the model file says, and
 * beside it what its format has no word for. A word against what the model states changes nothing and is a
 * contradiction. Materials that the sheet does not know stay as they are.
 */
export function applySheet(
  materials: readonly Material[],
  images: readonly AssetImage[],
  sheet: Sheet,
  format: Format,
): SheetReading {
  const byName = new Map(
    sheet.materials.flatMap((entry) => [entry.name, ...entry.copies].map((name) => [name, entry])),
  );
  const reader = new SheetReader(images, sheet, format);
  const read = materials.map((material) => {
    const entry = byName.get(material.name);
    return entry ? reader.material(material, entry) : material;
  });
  return { materials: read, words: reader.words, contradictions: reader.contradictions };
}

/** A map of the sheet and the channel that it feeds. */
interface SheetFeed {
  map: SheetMap;
  feed: SheetChannel;
  /** The image is there by the sheet alone, so all of it is the sheet's word. */
  isOwn?: boolean;
}

class SheetReader {
  readonly words: SheetWord[] = [];
  readonly contradictions: Contradiction[] = [];

  constructor(
    private readonly images: readonly AssetImage[],
    private readonly sheet: Sheet,
    private readonly format: Format,
  ) {}

  material(given: Material, entry: SheetMaterial): Material {
    const material = { ...given, channels: { ...given.channels }, extras: { ...given.extras } };
    for (const map of entry.maps) for (const feed of map.channels) this.channel(material, map, feed, entry);
    this.height(material, entry);
    const { mode, cutoff } = entry.alpha;
    const shown = (of: Pick<Material, 'alphaMode' | 'alphaCutoff'>) =>
      of.alphaMode === 'mask' ? `mask at ${Number(of.alphaCutoff.toFixed(3))}` : of.alphaMode;
    const alpha = { alphaMode: mode, alphaCutoff: mode === 'mask' ? cutoff : given.alphaCutoff };
    // UsdPreviewSurface blends or cuts where opacity is below 1, and has no other word for it.
    const isFull =
      this.format === 'usd' &&
      mode !== 'opaque' &&
      given.alphaMode === 'opaque' &&
      !given.channels.opacity?.map &&
      (given.channels.opacity?.value ?? 1) === 1;
    if (isFull || this.says(given, null, 'alpha', [shown(given), shown(alpha)]))
      Object.assign(material, alpha);
    if (
      this.says(given, null, 'sides', [given.doubleSided ? 'two' : 'one', entry.doubleSided ? 'two' : 'one'])
    )
      material.doubleSided = entry.doubleSided;
    // Classic materials are metal/rough or spec/gloss in the formats that know no others.
    const existing = entry.shading === 'legacy' && this.states('shading') ? given.workflow : entry.shading;
    if (this.says(given, null, 'shading', [given.workflow, existing])) changeWorkflow(material, existing);
    return material;
  }

  /** Whether to read it so: where the format says nothing of it. Notes the word, or the contradiction. */
  private says(
    material: Material,
    channel: ChannelName | null,
    word: SheetWord['word'],
    [model, sheet]: readonly [string, string],
  ): boolean {
    if (model === sheet) return false;
    if (this.states(word))
      this.contradict({ material: material.name, channel }, word, [`${word} ${model}`, `${word} ${sheet}`]);
    else this.words.push({ material: material.name, channel, word, value: sheet });
    return !this.states(word);
  }

  private states(word: SheetWord['word']): boolean {
    return STATES[this.format].has(word);
  }

  private contradict(
    { material, channel }: { material: string; channel: ChannelName | null },
    word: SheetWord['word'],
    [model, sheet]: readonly [string, string],
  ): void {
    const place = `${material}${channel ? `, ${channelInWords(channel)}` : ''}`;
    const message = `${place}: the sheet says ${sheet}, the model ${model}`;
    const where = { material, channel, measured: sheet, allowed: model };
    this.contradictions.push({ word, difference: difference('sheet.contradicts', message, where) });
  }

  private channel(material: Material, map: SheetMap, feed: SheetChannel, entry: SheetMaterial): void {
    const { channel } = feed;
    // MTL has one word for the colour of a highlight and its strength.
    if (this.format === 'obj' && feed.channel === 'specular' && material.channels.specularColor?.map) {
      this.channel(
        material,
        map,
        { ...feed, channel: 'specularColor', component: feed.component === 'r' ? 'rgb' : feed.component },
        entry,
      );
      return;
    }
    const existing = material.channels[channel];
    const use = existing?.map ?? null;
    if (existing && use && this.isImage(use, map.file)) {
      material.channels[channel] = { ...existing, map: this.readUse(material, use, { map, feed }) };
      return;
    }
    const held = use
      ? `image ${this.images.find(({ key }) => key === use.image)?.written ?? use.image}`
      : 'no image';
    if (use || MAPPED[this.format].has(channel)) {
      this.contradict({ material: material.name, channel }, 'image', [held, `image ${map.file}`]);
      return;
    }
    const image = this.images.find(
      ({ key, written }) => samePath(written, map.file) || samePath(key, map.file),
    );
    if (!image) return;
    this.words.push({ material: material.name, channel, word: 'image', value: map.file });
    const fresh = createMapUse(image.key, channel);
    material.channels[channel] = {
      value: entry.values[channel] ?? unitValue(channel),
      map: this.readUse(material, fresh, { map, feed, isOwn: true }),
      source: ORIGIN,
    };
  }

  private readUse(material: Material, use: MapUse, { map, feed, isOwn = false }: SheetFeed): MapUse {
    const { channel } = feed;
    const out = { ...use };
    const says: (...words: [SheetWord['word'], string, string]) => boolean = (word, model, sheet) =>
      isOwn ? model !== sheet : this.says(material, channel, word, [model, sheet]);
    // An image with one channel has one component: grey, which is the same in red, green and blue.
    const grey =
      map.channels.length === 1 && feed.component === 'r' && (use.component === 'g' || use.component === 'b');
    if (!grey && says('component', use.component, feed.component)) out.component = feed.component;
    if (says('inversion', isInverted(use) ? 'inverted' : 'as it is', feed.inverted ? 'inverted' : 'as it is'))
      out.invert = feed.inverted;
    // Alpha has no curve, whatever the colours beside it have.
    if (use.component !== 'a') out.space = this.readSpace(use, map, says);
    if (channel === 'normal' && says('direction', use.normalY, this.sheet.normalY))
      out.normalY = this.sheet.normalY;
    const shown = use.filter === 'nearest' ? ONE_BY_ONE : 'smoothly';
    if (map.palette && says('palette', shown, ONE_BY_ONE)) out.filter = 'nearest';
    return out;
  }

  /** UsdPreviewSurface knows sRGB and raw; of other curves the sheet alone can tell. */
  private readSpace(
    use: MapUse,
    { space }: SheetMap,
    says: (word: 'space', model: string, sheet: string) => boolean,
  ): MapUse['space'] {
    const word = (of: MapUse['space']) => (of === 'srgb_rec709_scene' ? 'sRGB' : 'raw');
    if (this.format === 'usd' && word(use.space) === word(space)) return space;
    return says('space', use.space, space) ? space : use.space;
  }

  private isImage({ image }: MapUse, file: string): boolean {
    const entry = this.images.find(({ key }) => key === image);
    if (!entry) return false;
    if (samePath(entry.written, file) || entry.resolved === file) return true;
    // Images inside a model have no path but a name.
    return entry.status === 'embedded' && bareStem(entry.written) === bareStem(file);
  }

  /** Amounts that the sheet tells in metres stand for what the file may have said otherwise. */
  private height(material: Material, { height }: SheetMaterial): void {
    const channel = material.channels.height;
    if (!height || !channel?.map || height.unit.startsWith('of ')) return;
    const { metresPerUnit } = this.sheet;
    const value = height.unit === 'm' ? height.amount / metresPerUnit : height.amount;
    const offset = height.mid === 0 ? 0 : -height.mid;
    if (sameNumber(channel.value, value) && sameNumber(channel.map.offset, offset)) return;
    this.words.push({
      material: material.name,
      channel: 'height',
      word: 'height',
      value: `${height.amount} ${height.unit}, middle ${height.mid}`,
    });
    material.channels.height = { ...channel, value, map: { ...channel.map, gain: 1, offset } };
  }
}

/** `1 - x`, however it is put. */
function isInverted({ invert, gain }: MapUse): boolean {
  return invert !== gain < 0;
}

function sameNumber(a: Channel['value'], b: number): boolean {
  return typeof a === 'number' && Math.abs(a - b) <= 1e-4 * Math.max(1, Math.abs(b));
}

function samePath(written: string, file: string): boolean {
  const plain = (path: string) => decodeURI(path.replaceAll('\\', '/')).replace(/^(\.\/)+/, '');
  try {
    return plain(written) === plain(file);
  } catch {
    return written === file;
  }
}

function bareStem(path: string): string {
  return path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1).replace(/\.\w+$/, '');
}
