import { readFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import type { AssetState } from '@kinkajou/core/asset/asset';
import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { parseUnit } from '@kinkajou/core/convert';
import { findDestination } from '@kinkajou/core/destinations/destinations';
import { type Destination, type MapType, parseProfile } from '@kinkajou/core/destinations/profile';
import { type HandoffChoices, resolveChoices } from '@kinkajou/core/destinations/resolveChoices';
import { describeEdit, replay } from '@kinkajou/core/edits/log';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { needsPerson } from '@kinkajou/core/findings/finding';
import type { BakeCache } from '@kinkajou/core/handoff/bake/bakeImages';
import { type HandoffResult, handOff } from '@kinkajou/core/handoff/handoff';
import { type HandoffPreview, previewHandoff } from '@kinkajou/core/handoff/previewHandoff';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import { encodePng } from '@kinkajou/core/images/encode';
import type { OpenAsset } from '@kinkajou/core/inspect';
import { ENVIRONMENTS } from '@kinkajou/core/maps/environments';
import { parseJson } from '@kinkajou/core/parcel/json';
import { cleanName } from '@kinkajou/core/parcel/names';
import { drawThumbnail } from '@kinkajou/core/preview/thumbnail';
import { parseStage, type StageChoice } from '@kinkajou/core/scene/stage';
import { mendLevel, mendWithFacts } from './facts.ts';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';
import { partEdits, turnOf, withPartEdits, writeTakeoff } from './parts.ts';
import { readLog, readRulebooks, settleWithRules } from './rules.ts';
import { readWords } from './words.ts';
import { checkFree, writePackage } from './writeOut.ts';

interface HandoffOptions {
  to: string[];
  out?: string;
  plan?: boolean;
  size?: string;
  unit?: string;
  type?: string;
  search: string[];
  mend: string;
  words?: string;
  choose: string[];
  variant?: string;
  replace?: boolean;
  json?: boolean;
  drop: string[];
  pivot?: string;
  turn?: string | true;
  collision?: string;
  takeoff?: string;
  stage?: string;
  rules: string[];
  log?: string;
}

/** A built-in destination by its id, or one of one's own from a JSON file. */
export async function destinationOf(word: string): Promise<Destination> {
  if (!word.endsWith('.json')) {
    const existing = findDestination(word);
    if (existing) return existing;
    throw new KinkajouError(
      'call.destination',
      `there is no destination "${word}"`,
      {},
      'See "kinkajou destinations", or name a JSON file.',
    );
  }
  let text: string;
  try {
    text = await readFile(word, 'utf8');
  } catch {
    throw new KinkajouError(
      'call.destination',
      'this profile cannot be read',
      { file: word },
      'Check the spelling.',
    );
  }
  try {
    return parseProfile(
      parseJson(text, { file: word, code: 'profile.invalid', hint: 'Mend the file; it is read as JSON.' }),
    );
  } catch (error) {
    throw toKinkajouError(error, 'profile.invalid', { file: word });
  }
}

/** Camera, lamps and environment of a file. */
async function readStage(file: string): Promise<StageChoice> {
  const text = await readFile(file, 'utf8').catch(() => {
    throw new KinkajouError('handoff.stage', 'this stage cannot be read', { file }, 'Check the spelling.');
  });
  return parseStage(
    parseJson(text, { file, code: 'handoff.stage', hint: 'Mend the file; it is read as JSON.' }),
    file,
  );
}

/** The picture that a stage's file names, by its path from there. */
async function readBeside(stage: string, image: string): Promise<Uint8Array> {
  return await readFile(resolve(dirname(stage), image)).catch(() => {
    throw new KinkajouError(
      'handoff.stage',
      `there is no environment ${image}`,
      { file: stage },
      `Take one of ${Object.keys(ENVIRONMENTS).join(', ')}, or a picture by its path from this file.`,
    );
  });
}

/** The asset as it stands, for the receiver's sheet. */
export async function pictureOf(asset: OpenAsset, state: AssetState): Promise<Uint8Array | null> {
  const picture = await drawThumbnail(editedDocument(asset.document, state).document, state, asset.read, {
    width: 480,
    height: 360,
  });
  return picture && encodePng(picture);
}

/** Size, unit and image type, where the destination leaves them open. */
function choicesOf({ variant, size, unit, type }: HandoffOptions): HandoffChoices {
  return {
    ...(variant ? { variant } : {}),
    ...(size ? { size: parseSize(size) } : {}),
    ...(unit ? { metresPerUnit: parseUnit(unit) } : {}),
    ...(type ? { type: type as MapType } : {}),
  };
}

/** `2.5`, `40cm` or `1 m`, in metres. */
function parseSize(text: string): number {
  const [, number, unit] = /^([\d.]+) *([a-z]*)$/i.exec(text.trim()) ?? [];
  const metres = Number(number) * (unit ? parseUnit(unit) : 1);
  if (!(metres >= 0))
    throw new KinkajouError(
      'call.size',
      `--size is "${text}"`,
      {},
      'Give metres, or a number and a unit such as 40cm.',
    );
  return metres;
}

/** Baked images of this call, so that several destinations share what is the same. */
export function memoryCache(): BakeCache {
  const kept = new Map<string, Uint8Array>();
  return { get: async (key) => kept.get(key) ?? null, put: async (key, bytes) => void kept.set(key, bytes) };
}

/**
 * Writes the package into `--out`. With several models in one path each goes into a folder of its own name,
 * with several destinations each into one of its id.
 */
export async function runHandoff(path: string, options: HandoffOptions, output: Output): Promise<number> {
  if (options.to.length === 0)
    throw new KinkajouError('call.destination', '--to is missing', {}, 'See "kinkajou destinations".');
  if (!options.out && !options.plan)
    throw new KinkajouError(
      'call.out',
      '--out is missing',
      {},
      'Name a folder for the package, or ask for the plan alone with --plan.',
    );
  const destinations: Destination[] = [];
  for (const word of options.to) destinations.push(await destinationOf(word));
  const level = mendLevel(options.mend);
  const turn = turnOf(options);
  const stage = options.stage === undefined ? null : await readStage(options.stage);
  const readEnvironment = (image: string) => readBeside(options.stage ?? '', image);
  const choices = { ...choicesOf(options), ...(turn > 0 ? { turn } : {}), ...(stage ? { stage } : {}) };
  for (const destination of destinations) resolveChoices(destination, choices);
  if (options.out && !options.plan && destinations.length === 1)
    await checkFree(options.out, options.replace === true);
  const house = await readWords(options.words);
  const cache = memoryCache();
  const books = await readRulebooks(options.rules);
  const before = options.log === undefined ? [] : await readLog(options.log);
  const prefers = destinations.every(({ workflow }) => workflow === 'specGloss') ? 'specGloss' : 'metalRough';
  const { results, unreadable } = await withAssets(path, options.search, output, async (given) => {
    const mended =
      books.length === 0
        ? await mendWithFacts(given, level, output, { house, choose: options.choose, prefers, before })
        : await settleWithRules(given, output, {
            books,
            root: path,
            parcel: given.files.name,
            level,
            house,
            choose: options.choose,
            prefers,
            before,
          });
    for (const { edit, what } of replay(given.source, before, mended.asset.images).skipped)
      output.message(`${describeEdit(before[edit])}: ${what} is not there`);
    const { asset, edits, state, findings } = withPartEdits(
      mended,
      partEdits(mended.asset, mended.state, options),
    );
    if (options.takeoff && !options.plan)
      await writeTakeoff(options.takeoff, asset, state, options.replace === true);
    const { document, source, images, read } = asset;
    const name = cleanName(source.name, 'asset');
    const made: {
      name: string;
      destination: string;
      result: HandoffResult | null;
      plan: HandoffPreview | null;
    }[] = [];
    const picture = options.plan ? null : await pictureOf(asset, state);
    for (const destination of destinations) {
      const { id } = destination;
      if (options.plan) {
        made.push({
          name,
          destination: id,
          result: null,
          plan: await previewHandoff({ source, state, images, destination, choices, read }),
        });
        continue;
      }
      const progress = (share: number, doing: string) =>
        output.message(`${destinations.length > 1 ? `${id}: ` : ''}${Math.round(share * 100)}% ${doing}`);
      const result = await handOff({
        document,
        source,
        state,
        edits,
        findings,
        images,
        destination,
        choices,
        read,
        picture,
        progress,
        cache,
        readEnvironment,
      });
      made.push({ name, destination: id, result, plan: null });
    }
    return made;
  });
  const all = results.flat();
  if (options.plan)
    return tellPlans(
      all.flatMap(({ name, plan }) => (plan ? [{ name, plan }] : [])),
      options,
      output,
    );
  const many = results.length > 1;
  const folders = new Set<string>();
  const receipts: Receipt[] = [];
  for (const { name, destination, result } of all) {
    if (!result) continue;
    const base = join(
      options.out ?? '',
      ...(destinations.length > 1 ? [destination] : []),
      ...(many ? [name] : []),
    );
    let folder = base;
    for (let i = 2; folders.has(folder); i += 1) folder = `${base}_${i}`;
    folders.add(folder);
    receipts.push(result.receipt);
    await writePackage(folder, result.files, {
      replace: options.replace === true,
      asset: result.receipt.asset.name,
    });
    if (!options.json) tellReceipt(folder, result.receipt, output);
  }
  if (options.json) output.json(receipts.length === 1 ? receipts[0] : { receipts });
  const unsettled =
    unreadable > 0 ||
    receipts.some((receipt) => receipt.verdict === 'failed' || receipt.openFindings.some(needsPerson));
  return unsettled ? EXIT.errorsRemain : EXIT.done;
}

/** A receipt in lines: verdict, what was lost, what failed, and every difference that no loss explains. */
export function tellReceipt(folder: string, receipt: Receipt, output: Pick<Output, 'text'>): void {
  output.text(`${folder}: ${receipt.verdict}, ${receipt.outputs.map((file) => file.path).join(', ')}`);
  for (const loss of receipt.losses) output.text(`  ${loss}`);
  for (const check of receipt.readBack.checks.filter((one) => !one.ok))
    output.text(`  failed: ${check.check}: expected ${check.expected}, found ${check.found}`);
  for (const { code, message } of receipt.differences.filter(({ exempt }) => exempt === null))
    output.text(`  ${code}: ${message}`);
  for (const { severity, code, message } of receipt.openFindings)
    output.text(`  left: ${severity} ${code} ${message}`);
}

function tellPlans(
  plans: { name: string; plan: HandoffPreview }[],
  { json }: HandoffOptions,
  output: Output,
): number {
  if (json) output.json({ plans: plans.map(({ name, plan }) => ({ asset: name, ...plan })) });
  else
    for (const { name, plan } of plans) {
      output.text(
        `${name} for ${plan.destination.id}, ${plan.variant}${plan.patched ? ', by changing the source file' : ''}`,
      );
      for (const { path, bytes, exact, image } of plan.files)
        output.text(
          `  ${path}${bytes === null ? '' : `, ${exact ? '' : 'about '}${bytes} bytes`}${image ? `, ${image.width} x ${image.height}, ${image.depth}` : ''}`,
        );
      for (const change of plan.changes) output.text(`  change: ${change}`);
      for (const loss of plan.losses) output.text(`  loss: ${loss}`);
    }
  return EXIT.done;
}
