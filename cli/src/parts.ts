import { mkdir, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { AssetState, Edit } from '@kinkajou/core/asset/asset';
import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { partsOf } from '@kinkajou/core/asset/parts';
import { replay } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import { takeoffTable } from '@kinkajou/core/handoff/write/takeoffTable';
import type { OpenAsset } from '@kinkajou/core/inspect';
import { createMatcher } from '@kinkajou/core/pattern';
import { applyIntake } from '@kinkajou/core/scene/intake';
import {
  COLLISION_RANGES,
  COLLISIONS,
  type Collision,
  type CollisionShape,
  collisionIn,
  PIVOTS,
  type PivotPlace,
} from '@kinkajou/core/scene/partChange';
import { takeOff } from '@kinkajou/core/shape/takeoff';
import type { MendedAsset } from './facts.ts';
import { isTaken } from './writeOut.ts';

/** What a call wants of parts. */
export interface PartOptions {
  drop: string[];
  pivot?: string;
  turn?: string | true;
  collision?: string;
  hulls?: string;
  hullError?: string;
  collisionKeep?: string;
  takeoff?: string;
}

const TURN_SECONDS = 8;

/** Seconds of the turn that is to go along; 0 for none. Throws `call.turn`. */
export function turnOf({ turn }: PartOptions): number {
  if (turn === undefined) return 0;
  const seconds = turn === true ? TURN_SECONDS : Number(turn);
  if (!(seconds > 0 && seconds <= 3600))
    throw new KinkajouError(
      'call.turn',
      `--turn is "${turn}"`,
      {},
      'Give the seconds of one turn, such as 8.',
    );
  return seconds;
}

function collisionOf(word: string, options: PartOptions): Collision {
  const shape = wordOf(word, COLLISIONS, 'collision') as CollisionShape;
  const hulls = rangedOf(options.hulls, 'hulls', COLLISION_RANGES.hulls);
  const error = rangedOf(options.hullError, 'hull-error', COLLISION_RANGES.error);
  const keep = rangedOf(options.collisionKeep, 'collision-keep', COLLISION_RANGES.keep);
  return collisionIn({ shape, hulls: hulls && Math.round(hulls), error, keep });
}

/** A number of the call within its range. Throws `call.collision`. */
function rangedOf(
  text: string | undefined,
  option: string,
  [least, most]: readonly [number, number],
): number | undefined {
  if (text === undefined) return undefined;
  const value = Number(text);
  if (value >= least && value <= most) return value;
  throw new KinkajouError(
    'call.collision',
    `--${option} is "${text}"`,
    {},
    `Give a number from ${least} to ${most}.`,
  );
}

/**
 * The edits that a call asks for, as if they had been made by hand. Throws `call.drop` where nothing fits a
 * pattern.
 */
export function partEdits({ source }: OpenAsset, state: AssetState, options: PartOptions): Edit[] {
  const edits: Edit[] = [];
  const parts = partsOf(source, state).filter(({ dropped }) => !dropped);
  const add = (change: Extract<Edit, { kind: 'editParts' }>['change'], detail: string) =>
    edits.push({ kind: 'editParts', change, origin: { from: 'hand', detail } });
  const gone = new Set<string>();
  for (const pattern of options.drop) {
    const fits = createMatcher(pattern);
    const found = parts.filter(({ name }) => fits(name)).map(({ key }) => key);
    if (found.length === 0)
      throw new KinkajouError(
        'call.drop',
        `no part is called "${pattern}"`,
        { file: source.model },
        `Its parts are ${namesOf(parts)}.`,
      );
    add({ do: 'drop', parts: found }, `--drop ${pattern}`);
    for (const key of found) gone.add(key);
  }
  const shown = parts.filter(({ key, polygons }) => polygons > 0 && !gone.has(key)).map(({ key }) => key);
  if (options.collision !== undefined) {
    const collision = collisionOf(options.collision, options);
    if (shown.length > 0)
      add({ do: 'collision', parts: shown, ...collision }, `--collision ${collision.shape}`);
  }
  if (options.pivot !== undefined) {
    const at = wordOf(options.pivot, PIVOTS, 'pivot') as PivotPlace;
    const holding = new Set(parts.flatMap(({ parent }) => parent ?? []));
    const tops = parts
      .filter(
        ({ parent, key, polygons }) =>
          parent === null && !gone.has(key) && (polygons > 0 || holding.has(key)),
      )
      .map(({ key }) => key);
    if (tops.length > 0) add({ do: 'pivot', parts: tops, at }, `--pivot ${at}`);
  }
  return edits;
}

function wordOf(word: string, words: readonly string[], option: string): string {
  if (words.includes(word)) return word;
  throw new KinkajouError(`call.${option}`, `--${option} is "${word}"; it takes ${words.join(', ')}`);
}

function namesOf(parts: readonly { name: string }[]): string {
  const names = [...new Set(parts.map(({ name }) => name))];
  return `${names.slice(0, 12).join(', ')}${names.length > 12 ? ` and ${names.length - 12} more` : ''}`;
}

/** A mended asset with further edits of its parts, and what is left to find then. */
export function withPartEdits(mended: MendedAsset, added: readonly Edit[]): MendedAsset {
  if (added.length === 0) return mended;
  const { asset } = mended;
  const edits = [...mended.edits, ...added];
  const { state } = replay(asset.source, edits, asset.images);
  // What was told of a part that is gone is told no more; the rest has not changed.
  const dropped = new Set(
    partsOf(asset.source, state).flatMap(({ key, dropped: gone }) => (gone ? [key] : [])),
  );
  return {
    ...mended,
    edits,
    state,
    findings: mended.findings.filter(({ target: { part } }) => part === undefined || !dropped.has(part)),
  };
}

/** Areas and volumes of what is left, as CSV; a file that is there already is not written over. */
export async function writeTakeoff(
  file: string,
  asset: OpenAsset,
  state: AssetState,
  replace: boolean,
): Promise<void> {
  const { document } = editedDocument(asset.document, state);
  const bytes = new TextEncoder().encode(takeoffTable(takeOff(applyIntake(document, state.intake))));
  if (!replace && (await isTaken(file, bytes)))
    throw new KinkajouError(
      'out.occupied',
      'there is a file already',
      { file },
      'Name another one, or give --replace.',
    );
  await mkdir(dirname(file), { recursive: true });
  await writeFile(file, bytes);
}
