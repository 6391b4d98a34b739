import { initialState } from '@kinkajou/core/asset/asset';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';

const MOST = 4;

/** Why the receipt of a model that goes to a destination as it is does not hold; empty where it does. */
export async function failuresOf(bytes: Uint8Array, destination: Destination): Promise<string[]> {
  const { document, source, images, read } = await openAsset(
    memorySource('strange', { 'strange.glb': bytes }),
    'strange.glb',
  );
  const { receipt } = await handOff({
    document,
    source,
    state: initialState(source),
    edits: [],
    findings: [],
    images,
    destination,
    read,
  });
  if (receipt.verdict !== 'failed') return [];
  const open = receipt.differences.filter(({ exempt }) => exempt === null).map(({ message }) => message);
  const checks = receipt.readBack.checks.filter(({ ok }) => !ok);
  const words = checks.map(({ check, expected, found }) => `${check}: expected ${expected}, found ${found}`);
  return [...new Set([...open, ...words])].slice(0, MOST);
}
