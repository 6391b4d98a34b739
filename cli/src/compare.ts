import { readCarelessly } from '@kinkajou/core/compare/careless';
import type { Reading } from '@kinkajou/core/compare/channelField';
import type { ChannelDifference } from '@kinkajou/core/compare/compareMaterials';
import { compareModels, type ModelSide } from '@kinkajou/core/compare/compareModels';
import { compareReadings, type MaterialPair } from '@kinkajou/core/compare/compareReadings';
import { type Difference, difference, isDifferent } from '@kinkajou/core/compare/difference';
import { baseColourVerdict, type MaterialDifference } from '@kinkajou/core/compare/verdict';
import { KinkajouError } from '@kinkajou/core/errors';
import { comparePackage, comparePackages, type SheetedPackage } from '@kinkajou/core/handoff/compareHandoff';
import { sideOf } from '@kinkajou/core/handoff/readBack/proof';
import { sheetOfPackage } from '@kinkajou/core/handoff/readBack/sheetOfPackage';
import { listModels } from '@kinkajou/core/inspect';
import { fileName } from '@kinkajou/core/parcel/fileSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { type OpenedSource, openSource } from '@kinkajou/core/parcel/openSource';
import { channelInWords } from '@kinkajou/core/scene/channelTitles';
import { type MendedAsset, mendLevel, mendWithFacts } from './facts.ts';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';

interface CompareOptions {
  search: string[];
  mend: string;
  limit: string;
  json?: boolean;
}

interface Compared {
  asset: string;
  verdict: 'same' | 'different';
  differences: Difference[];
  channels: MaterialDifference[];
}

/**
 * Compares a model with another one, or with a package that was made of it; alone, with how a careless reader
 * would see it. Exit 1 on any difference that no loss explains.
 */
export async function runCompare(
  path: string,
  other: string | undefined,
  options: CompareOptions,
  output: Output,
): Promise<number> {
  const steps = Number(options.limit);
  if (!(steps >= 0))
    throw new KinkajouError(
      'call.limit',
      `--limit is "${options.limit}"`,
      {},
      'Give a number of steps of 8 bits, such as 1.5.',
    );
  const level = mendLevel(options.mend);
  const packages =
    other !== undefined && level === 'none' ? await compareAsPackages(path, other, steps / 255) : null;
  if (packages) return finish([packages], 0, options, output);
  const { results, unreadable } = await withAssets(
    path,
    options.search,
    output,
    async (given): Promise<Compared> => {
      const mended = await mendWithFacts(given, level, output);
      const { name } = mended.asset.source;
      const progress = (done: number, total: number) => output.message(`comparing ${done + 1} of ${total}`);
      const how = { limit: steps / 255, progress };
      if (other === undefined) return compareCarelessly(mended, how);
      const opened = await openSource(other, limitsFromEnvironment());
      try {
        const found = await compareWith(mended, opened, how);
        return { asset: name, verdict: isDifferent(found.differences) ? 'different' : 'same', ...found };
      } finally {
        await opened.source.close();
      }
    },
  );
  return finish(results, unreadable, options, output);
}

function finish(results: Compared[], unreadable: number, options: CompareOptions, output: Output): number {
  if (options.json) output.json({ compared: results });
  else for (const compared of results) tell(compared, output);
  return unreadable > 0 || results.some(({ verdict }) => verdict === 'different')
    ? EXIT.errorsRemain
    : EXIT.done;
}

/** Two packages of the same models, which need not be made again to be held against each other; else null. */
async function compareAsPackages(path: string, other: string, limit: number): Promise<Compared | null> {
  const limits = limitsFromEnvironment();
  const opened: OpenedSource[] = [];
  try {
    for (const place of [path, other]) opened.push(await openSource(place, limits));
    const [first, second] = await Promise.all(opened.map(packageIn));
    if (!first || !second || first.sheet.models.join('\n') !== second.sheet.models.join('\n')) return null;
    const found = await comparePackages(first, second, { limit });
    const verdict = isDifferent(found.differences) ? 'different' : 'same';
    return { asset: first.sheet.asset, verdict, ...found };
  } finally {
    await Promise.all(opened.map(({ source }) => source.close()));
  }
}

async function packageIn({ source: files, only }: OpenedSource): Promise<SheetedPackage | null> {
  const sheet = await sheetOfPackage(files);
  return sheet && (only === null || sheet.models.includes(only)) ? { files, sheet } : null;
}

type How = { limit: number; progress: (done: number, total: number) => void };

async function compareCarelessly({ asset, state }: MendedAsset, how: How): Promise<Compared> {
  const { materials, images } = state;
  const source: Reading = { materials, images, metresPerUnit: asset.source.metresPerUnit, read: asset.read };
  const pairs = materials.map(({ key }): MaterialPair => ({ key, a: key, b: key }));
  const channels = await compareReadings(
    source,
    { ...source, materials: readCarelessly(materials) },
    pairs,
    how,
  );
  const differences = channels.flatMap(({ material, channels: own }) =>
    own.filter(({ largest, limit }) => largest > limit).map((channel) => naiveDifference(material, channel)),
  );
  return {
    asset: asset.source.name,
    verdict: differences.length > 0 ? 'different' : 'same',
    differences,
    channels,
  };
}

function naiveDifference(material: string, { channel, largest, limit }: ChannelDifference): Difference {
  return difference(
    'channel.differs',
    `${material}: ${channelInWords(channel)} differs by up to ${largest.toPrecision(3)}`,
    {
      material,
      channel,
      measured: largest,
      allowed: limit,
    },
  );
}

/**
 * A package that a handoff wrote is held against what would be written now; anything else against the model
 * itself.
 */
async function compareWith(
  { asset, edits, state, findings }: MendedAsset,
  { source: files, only }: OpenedSource,
  how: How,
) {
  const sheet = await sheetOfPackage(files);
  const { document, source, images, read } = asset;
  if (sheet && (only === null || sheet.models.includes(only)))
    return comparePackage({ document, source, state, edits, findings, images, read }, files, sheet, how);
  const models = listModels(files);
  const model = only ?? models.find((path) => fileName(path) === fileName(source.model)) ?? models[0];
  if (!model)
    throw new KinkajouError(
      'compare.model',
      'there is no model in it',
      { file: files.name },
      'Name a model, a folder with one, or a package.',
    );
  const own: ModelSide = {
    document: { ...document, materials: state.materials },
    materials: state.materials,
    images: state.images,
    read,
  };
  return compareModels(own, await sideOf(files, model), how);
}

function tell({ asset, verdict, differences, channels }: Compared, output: Output): void {
  const { equal, largest, compared } = baseColourVerdict(channels);
  const colour =
    compared === 0
      ? 'no base colour to compare'
      : `unlit base colour ${equal ? 'equal within rounding' : 'differs'}, at most ${(largest * 255).toFixed(2)}/255 apart`;
  output.text(`${asset}: ${verdict}; ${colour}`);
  for (const { code, message, exempt } of differences)
    output.text(`  ${code}: ${message}${exempt ? ` (told as ${exempt})` : ''}`);
  for (const { material, channels: own } of channels) {
    for (const { channel, kind, mean, largest: most, deltaE, beyond, limit } of own) {
      const unit = (value: number) =>
        kind === 'length' ? `${value.toPrecision(3)} m` : `${(value * 255).toFixed(2)}/255`;
      const seen = deltaE
        ? `, CIEDE2000 mean ${deltaE.mean.toFixed(2)}, largest ${deltaE.largest.toFixed(2)}`
        : '';
      output.text(
        `  ${material}, ${channelInWords(channel)}: mean ${unit(mean)}, largest ${unit(most)}${seen}, ${(beyond * 100).toFixed(1)} % beyond ${unit(limit)}`,
      );
    }
  }
}
