import type { Reading } from '@kinkajou/core/compare/channelField';
import { readCarelessly } from '@kinkajou/core/compare/careless';
import { compareReadings, type MaterialPair } from '@kinkajou/core/compare/compareReadings';
import { baseColourVerdict } from '@kinkajou/core/compare/verdict';
import { KinkajouError } from '@kinkajou/core/errors';
import { openPackage, packagePairs, packageReading } from '@kinkajou/core/handoff/openPackage';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { openSource } from '@kinkajou/core/parcel/openSource';
import { mendLevel, mendWithFacts } from './facts.ts';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';

interface CompareOptions {
  search: string[];
  mend: string;
  limit: string;
  json?: boolean;
}

/** Compares what a model says with what a package says; exit 1 where the unlit base colours are not equal within rounding. */
export async function runCompare(path: string, packagePath: string | undefined, options: CompareOptions, output: Output): Promise<number> {
  const steps = Number(options.limit);
  if (!(steps >= 0)) throw new KinkajouError('call.limit', `--limit is "${options.limit}"`, {}, 'Give a number of steps of 8 bits, such as 1.5.');
  const level = mendLevel(options.mend);
  const { results, unreadable } = await withAssets(path, options.search, output, async (given) => {
    const { asset, state } = await mendWithFacts(given, level, output);
    const source: Reading = { materials: state.materials, images: state.images, metresPerUnit: asset.source.metresPerUnit, read: asset.read };
    const own = state.materials.map(({ key }): MaterialPair => ({ key, a: key, b: key }));
    const progress = (done: number, total: number) => output.message(`comparing ${done + 1} of ${total}`);
    const compare = (other: Reading, pairs: MaterialPair[]) => compareReadings(source, other, pairs, { limit: steps / 255, progress });
    if (packagePath === undefined)
      return { name: asset.source.name, differences: await compare({ ...source, materials: readCarelessly(state.materials) }, own) };
    const opened = await openSource(packagePath, limitsFromEnvironment());
    try {
      const made = await openPackage(opened.source);
      return { name: asset.source.name, differences: await compare(packageReading(made), packagePairs(made.sheet)) };
    } finally {
      await opened.source.close();
    }
  });
  const told = results.map(({ name, differences }) => ({ asset: name, baseColour: baseColourVerdict(differences), differences }));
  if (options.json) output.json({ compared: told });
  else for (const { asset, baseColour, differences } of told) tell(asset, baseColour, differences, output);
  return unreadable > 0 || told.some(({ baseColour }) => !baseColour.equal) ? EXIT.errorsRemain : EXIT.done;
}

function tell(
  asset: string,
  { equal, largest, compared }: ReturnType<typeof baseColourVerdict>,
  differences: Awaited<ReturnType<typeof compareReadings>>,
  output: Output,
): void {
  const verdict = compared === 0 ? 'no base colour to compare' : equal ? 'unlit base colour equal within rounding' : 'unlit base colour differs';
  output.text(`${asset}: ${verdict}, at most ${(largest * 255).toFixed(2)}/255 apart`);
  for (const { material, channels } of differences) {
    for (const { channel, kind, mean, largest: most, deltaE, beyond, limit } of channels) {
      const unit = (value: number) => (kind === 'length' ? `${value.toPrecision(3)} m` : `${(value * 255).toFixed(2)}/255`);
      const colour = deltaE ? `, CIEDE2000 mean ${deltaE.mean.toFixed(2)}, largest ${deltaE.largest.toFixed(2)}` : '';
      output.text(`  ${material}, ${channel}: mean ${unit(mean)}, largest ${unit(most)}${colour}, ${(beyond * 100).toFixed(1)} % beyond ${unit(limit)}`);
    }
  }
}
