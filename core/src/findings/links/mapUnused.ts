import type { ParcelImage } from '../../asset/asset.ts';
import { isMade } from '../../asset/madeFiles.ts';
import type { DetectedMap } from '../../maps/detectMaps.ts';
import { isNormalLike, judgePixels } from '../../maps/judgePixels.ts';
import { folderOf } from '../../parcel/fileSource.ts';
import type { ChannelName } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';

const SHOWN = 20;

/** Images of the parcel that no slot reads and that no empty slot waits for. */
export const mapUnused: Check = (context) => {
  const { source, state, own: ownFiles, sidecars } = context;
  const spoken = new Set(sidecars.map(({ path }) => path));
  // What the model or an edit once read was of use, even where another image, or one made of it, took its place.
  for (const image of state.images) {
    if (!image.resolved) continue;
    spoken.add(image.resolved);
    for (const tile of image.tiles ?? []) spoken.add(tile.path);
  }
  const { fills, rewired, matching } = context.settlement();
  for (const { image } of [...fills, ...[...rewired.values()].flat()]) spoken.add(image);
  for (const { candidates } of matching.questions)
    for (const { set } of candidates) for (const { map } of set.members) spoken.add(map.path);
  // What a missing image may mean is the subject of its own finding.
  for (const path of candidatesOfMissing(context)) spoken.add(path);
  // What lies with no model is not missed by any.
  const commons = new Set([
    ...(source.commons ?? []),
    ...(source.lender === undefined ? [] : [source.lender]),
  ]);
  const unused = ownFiles
    .filter(({ info, path }) => info && !isMade(path) && !spoken.has(path) && !commons.has(folderOf(path)))
    .map((image) => image.path);
  if (unused.length === 0) return [];
  const required = isRequired(context);
  const maps = new Set(
    required ? context.sets().flatMap(({ members }) => members.map(({ map }) => map.path)) : [],
  );
  const beside = besideSets(context, spoken);
  const [likely, others] = parted(unused, (path) => maps.has(path));
  const [unnamed, more] = parted(others, (path) => beside.has(path));
  const like = likeMaps(context);
  const [nameless, rest] = parted(more, (path) => like(path));
  return [
    ...unusedFinding(source.name, likely, 'likely'),
    ...unusedFinding(source.name, unnamed, 'unnamed'),
    ...unusedFinding(source.name, nameless, 'nameless'),
    ...unusedFinding(source.name, rest, 'rest'),
  ];
};

function parted(paths: readonly string[], test: (path: string) => boolean): [string[], string[]] {
  return [paths.filter(test), paths.filter((path) => !test(path))];
}

/** Maps of a set that are read before what stands among them is thought to belong to it. */
const FEWEST_READ = 2;
/** What most materials have images of, by one name or the other. */
const USUAL: readonly (readonly ChannelName[])[] = [
  ['baseColor'],
  ['roughness', 'glossiness'],
  ['metalness', 'specularColor'],
];

/**
 * Images whose names put them among maps that are read, by a word for the channel that nobody knows, where
 * one of the usual channels is not among those: `hull_zork.png` beside `hull_color.png` and `hull_normal.png`.
 */
function besideSets({ detected }: FindingContext, read: ReadonlySet<string>): ReadonlySet<string> {
  const channels = new Map<string, ChannelName[]>();
  const keyOf = ({ path, set }: DetectedMap) => `${folderOf(path)}\n${set}`;
  for (const map of detected.values())
    if (read.has(map.path))
      channels.set(keyOf(map), [
        ...(channels.get(keyOf(map)) ?? []),
        ...map.readings.map(({ channel }) => channel),
      ]);
  const unknown = [...detected.values()].filter((map) => {
    const beside = channels.get(keyOf(map)) ?? [];
    const lacks = USUAL.some((names) => !names.some((name) => beside.includes(name)));
    return (
      map.readings.length === 0 && !map.helper && map.set !== '' && beside.length >= FEWEST_READ && lacks
    );
  });
  return new Set(unknown.map(({ path }) => path));
}

/** What a material with a base colour has at least one image for, where more than that was painted. */
const BEYOND_COLOUR: ReadonlySet<ChannelName> = new Set([
  'roughness',
  'glossiness',
  'metalness',
  'specularColor',
  'normal',
  'bump',
  'occlusion',
]);

/**
 * Tells images that look like maps, whatever they are called: grey or vectors, of the size of an image that is
 * read, while a material has nothing but its colours.
 */
function likeMaps({ source, slots, images, detected, factsOf }: FindingContext): (path: string) => boolean {
  if ((source.modelsAtHome ?? 1) > 1) return () => false;
  const channels = new Map<string, ChannelName[]>();
  const sizes = new Set<string>();
  const sizeOf = ({ info }: ParcelImage) => `${info?.width}x${info?.height}`;
  for (const { material, channel, file } of slots) {
    if (!file) continue;
    channels.set(material.key, [...(channels.get(material.key) ?? []), channel]);
    sizes.add(sizeOf(file));
  }
  const lacks = [...channels].some(
    ([key, list]) =>
      (source.facesPerMaterial[key] ?? 0) > 0 &&
      list.includes('baseColor') &&
      !list.some((channel) => BEYOND_COLOUR.has(channel)),
  );
  if (!lacks) return () => false;
  const files = new Map(images.map((image) => [image.path, image]));
  return (path) => {
    const [file, facts] = [files.get(path), factsOf(path)];
    if (!file || !facts || detected.get(path)?.helper || !sizes.has(sizeOf(file))) return false;
    return isNormalLike(facts) || ['grey', 'mask'].includes(judgePixels(facts).kind);
  };
}

/** Whether a material that faces use has no image at all, so that what lies about may be meant for it. */
function isRequired({ source, state }: FindingContext): boolean {
  // Beside other models they are those models' own.
  if ((source.modelsAtHome ?? 1) > 1) return false;
  return state.materials.some(
    ({ key, channels }) =>
      (source.facesPerMaterial[key] ?? 0) > 0 && !Object.values(channels).some((channel) => channel?.map),
  );
}

/**
 * Maps where materials have no image, images among maps that are read, those that look like maps beside colours
 * alone, and all others.
 */
type UnusedKind = 'likely' | 'unnamed' | 'nameless' | 'rest';

const KINDS: Record<UnusedKind, Pick<Finding, 'key' | 'severity' | 'title'> & { why: string }> = {
  likely: {
    key: 'map.unused:likely',
    severity: 'warning',
    title: 'Maps that went nowhere',
    why: ', though materials without any image are there',
  },
  unnamed: {
    key: 'map.unused:unnamed',
    severity: 'warning',
    title: 'Maps of an unknown kind',
    why: ', though the name puts it among maps that are read; its word for the channel is not known. Settings takes words of the house',
  },
  nameless: {
    key: 'map.unused:nameless',
    severity: 'warning',
    title: 'Maps that nothing reads',
    why: ', though by their pixels they are maps, and materials have their colours alone',
  },
  rest: { key: 'map.unused', severity: 'note', title: 'Images that nothing reads', why: '' },
};

function unusedFinding(subject: string, unused: readonly string[], kind: UnusedKind): Finding[] {
  if (unused.length === 0) return [];
  const left = unused.length - SHOWN;
  const { why, ...words } = KINDS[kind];
  const counted =
    unused.length === 1
      ? `No slot reads ${unused[0]}`
      : `No slot reads ${unused.length} images, such as ${unused[0]}`;
  return [
    {
      code: 'map.unused',
      step: 'links',
      ...words,
      subject,
      message: `${counted}${why}.`,
      evidence: [...unused.slice(0, SHOWN), ...(left > 0 ? [`and ${left} more`] : [])],
      mend: null,
      safe: false,
      mendLabel: '',
      target: { image: unused[0] },
    },
  ];
}

function candidatesOfMissing({ state, index, candidatesOf }: Parameters<Check>[0]): string[] {
  return state.images
    .filter((image) => image.status === 'missing')
    .flatMap(candidatesOf)
    .flatMap(
      ({ path }) =>
        index
          .tileSets()
          .get(path)
          ?.tiles.map((tile) => tile.path) ?? [path],
    );
}
