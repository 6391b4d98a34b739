import type { Edit } from '@kinkajou/core/asset/asset';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { replay } from '@kinkajou/core/edits/log';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { strangeEdits } from './strangeEdits.ts';

/** A model and the files that it came with. */
export interface Parcel {
  files: Record<string, Uint8Array>;
  model: string;
}

/**
 * What came of a handoff: why its receipt does not hold, what it said would be lost, and what was written as a
 * parcel of its own.
 */
export interface HandedOff {
  failures: string[];
  losses: readonly string[];
  parcel: Parcel;
}

const MOST = 4;
/** Files of a package that only we know of. */
const OURS = /^(handoff\.json|receipt\.json|README\.html)$/;

/** Hands a parcel's model to a destination as it is, with edits, or with some by lot. */
export async function handedOff(
  { files, model }: Parcel,
  destination: Destination,
  changes: number | readonly Edit[] | null = null,
): Promise<HandedOff> {
  const asset = await openAsset(memorySource('strange', files), model);
  const { document, source, images, read } = asset;
  const edits = typeof changes === 'number' ? strangeEdits(asset, changes) : [...(changes ?? [])];
  const { receipt, files: written } = await handOff({
    document,
    source,
    state: replay(source, edits, images).state,
    edits,
    findings: [],
    images,
    destination,
    read,
  });
  const others = [...written].filter(([path]) => !OURS.test(path));
  const next = { files: Object.fromEntries(others), model: modelAmong(others.map(([path]) => path)) };
  if (receipt.verdict !== 'failed') return { failures: [], losses: receipt.losses, parcel: next };
  const open = receipt.differences.filter(({ exempt }) => exempt === null).map(({ message }) => message);
  const checks = receipt.readBack.checks.filter(({ ok }) => !ok);
  const words = checks.map(({ check, expected, found }) => `${check}: expected ${expected}, found ${found}`);
  return { failures: [...new Set([...open, ...words])].slice(0, MOST), losses: receipt.losses, parcel: next };
}

function modelAmong(paths: readonly string[]): string {
  const model = paths.find((path) => /\.(fbx|obj|usd[acz]?|gl(tf|b))$/.test(path));
  if (!model) throw new Error(`there is no model among ${paths.join(', ')}`);
  return model;
}
