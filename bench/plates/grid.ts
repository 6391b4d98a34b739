import type { Edit } from '@kinkajou/core/asset/asset';
import { findDestination } from '@kinkajou/core/destinations/destinations';
import { replay } from '@kinkajou/core/edits/log';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { type Cell, cellName } from './cells.ts';
import { type Found, seePackage } from './see.ts';
import { FACTORS, GOLD, truthOf } from './truth.ts';
import { writePlate } from './write.ts';

/** What came of a cell. */
export interface CellResult {
  cell: Cell;
  /** What a receiver sees wrongly and the package does not tell of; empty where the cell holds. */
  wrong: string[];
  /** Receipt's verdict, and what it tells as lost. */
  verdict: string;
  losses: string[];
}

/** Two steps of 8 bits as they are read, and what a half float and a conversion on the way cost. */
const TOLERANCE = 2.6 / 255;

/**
 * Hands one plate off without any mend, and holds what an outside reader sees against the numbers worked out
 * by hand.
 */
export async function measureCell(cell: Cell): Promise<CellResult> {
  const { model, files } = await writePlate(cell);
  const asset = await openAsset(memorySource('plate', files), model);
  const edits = cell.written === 'classicMetal' ? metalByHand(cell) : [];
  const { state } = replay(asset.source, edits, asset.images);
  const destination = findDestination(cell.goal.destination);
  if (!destination) throw new Error(`${cell.goal.destination} is no destination`);
  const { files: made, receipt } = await handOff({
    document: asset.document,
    source: asset.source,
    state,
    edits,
    findings: [],
    images: asset.images,
    destination,
    choices: { variant: cell.goal.variant },
    read: asset.read,
    threads: 1,
  });
  const seen = await seePackage(made, cell.goal);
  const wrong = seen.flatMap((found, stripe) => compareStripe(cell, stripe, found, receipt.losses));
  if (receipt.verdict === 'failed') {
    const failed = receipt.readBack.checks.filter(({ ok }) => !ok);
    wrong.push(
      ...failed.map(({ check, expected, found }) => `check "${check}": expected ${expected}, found ${found}`),
    );
  }
  return {
    cell,
    wrong: wrong.map((line) => `${cellName(cell)}: ${line}`),
    verdict: receipt.verdict,
    losses: receipt.losses,
  };
}

/** What an outside reader sees wrongly in one stripe, in words. */
export function compareStripe(cell: Cell, stripe: number, found: Found, losses: readonly string[]): string[] {
  const truth = truthOf(cell, stripe);
  // A place that is not there has no colour to speak of.
  if (truth.opacity === 0)
    return found.opacity === undefined || found.opacity < TOLERANCE
      ? []
      : [`stripe ${stripe}: opacity ${found.opacity}, not 0`];
  const wrong: string[] = [];
  for (const key of ['base', 'diffuse', 'specular', 'metalness', 'roughness', 'opacity'] as const) {
    const value = found[key];
    if (value === undefined) continue;
    const [a, b] = [[truth[key]].flat().map(shown(key)), [value].flat().map(shown(key))];
    if (a.some((component, k) => Math.abs(component - b[k]) > TOLERANCE))
      wrong.push(`stripe ${stripe}: ${key} ${words(b)}, not ${words(a)}`);
  }
  if (found.strength !== undefined && Math.abs(found.strength - (1 - truth.roughness)) > TOLERANCE)
    wrong.push(`stripe ${stripe}: strength ${words([found.strength])}, not ${words([1 - truth.roughness])}`);
  const glass = cell.clear === 'glass' && truth.opacity === 1;
  if (glass && found.transmission !== 1 && !losses.some((loss) => loss.includes('transmission')))
    wrong.push(`stripe ${stripe}: transmission is lost without a word`);
  const metal = found.base !== undefined && found.metalness === undefined && truth.metalness > 0;
  if (metal && !losses.some((loss) => loss.includes('metalness')))
    wrong.push(`stripe ${stripe}: metalness is lost without a word`);
  return wrong;
}

/** Colours are held against each other as people see them, encoded. */
function shown(key: string): (value: number) => number {
  if (!['base', 'diffuse', 'specular'].includes(key)) return (value) => value;
  return (value) => (value <= 0.0031308 ? 12.92 * value : 1.055 * value ** (1 / 2.4) - 0.055);
}

function words(numbers: readonly number[]): string {
  return numbers.map((value) => value.toFixed(3)).join(' ');
}

/** What a person adds to a material that its file calls classic. */
function metalByHand({ values }: Cell): Edit[] {
  const origin = { from: 'hand' as const, detail: '' };
  const slot = (channel: 'metalness' | 'roughness') => ({ material: 'Plate', channel });
  const edits: Edit[] = [];
  if (values !== 'value') {
    const assignments = (['metalness', 'roughness'] as const).map((channel) => ({
      ...slot(channel),
      image: `plate_${channel}.png`,
      component: 'r' as const,
      invert: false,
      space: 'data' as const,
      normalY: 'Y+' as const,
    }));
    edits.push({ kind: 'assignSlots', assignments, origin });
  }
  const numbers = { value: { metalness: 1, roughness: GOLD.roughness }, both: FACTORS, map: null }[values];
  if (numbers)
    for (const channel of ['metalness', 'roughness'] as const)
      edits.push({ kind: 'setValues', slots: [slot(channel)], value: numbers[channel], origin });
  return edits;
}
