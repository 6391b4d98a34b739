import { describeSource } from '@kinkajou/core/asset/describeSource';
import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { type Part, partsOf } from '@kinkajou/core/asset/parts';
import { replay } from '@kinkajou/core/edits/log';
import { type OpenAsset, openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import type { Bounds } from '@kinkajou/core/scene/measure';
import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { describe, expect, it } from 'vitest';
import { smallParcel } from '../../core/src/test/harbour.ts';
import { strangeEdits } from './strangeEdits.ts';
import { strangeModel } from './strangeModel.ts';

const LOGS = 25;
/** Of the size of what is measured. */
const EXACT = 1e-5;

/** What the page tells of parts while it has no geometry, and what the model that goes out is like. */
function bothOf({ source, images, document }: OpenAsset, seed: number) {
  const edits = strangeEdits({ source, images, document } as OpenAsset, seed, 5);
  const { state } = replay(source, edits, images);
  const told = partsOf(source, state);
  const edited = editedDocument(document, state);
  const { nodes } = describeSource(edited.document, 'edited.glb', []);
  const changes = edits.flatMap((edit) => (edit.kind === 'editParts' ? [edit.change] : []));
  return { told, edited, nodes, changes };
}

function sizeOf({ min, max }: Bounds): number {
  return Math.max(...max.map((value, k) => Math.max(value - min[k], Math.abs(value), Math.abs(min[k]))));
}

/** How far a box of the page reaches beyond the true one (a turned box is larger), or falls short of it. */
function misfit(told: Bounds, real: Bounds): { beyond: number; short: number } {
  const sides = [0, 1, 2].flatMap((k) => [real.min[k] - told.min[k], told.max[k] - real.max[k]]);
  const size = Math.max(sizeOf(real), 1e-6);
  return { beyond: Math.max(0, ...sides) / size, short: Math.max(0, ...sides.map((side) => -side)) / size };
}

describe('parts after edits by lot', () => {
  it.each([
    ...[11, 12, 13, 14, 15, 16].map((seed) => [`strange model ${seed}`, seed] as const),
    ['an FBX buoy', null] as const,
  ])('stand, turn and are mirrored as they do in the model that goes out: %s', async (_, seed) => {
    const files =
      seed === null ? (await smallParcel(channelBuoy, 16)).files : { 'm.glb': await strangeModel(seed) };
    const model = Object.keys(files).find((path) => /\.(fbx|glb)$/.test(path)) ?? '';
    const asset = await openAsset(memorySource('quay', files), model);
    for (let log = 1; log <= LOGS; log += 1) {
      const { told, edited, nodes, changes } = bothOf(asset, log * 97);
      // What is only marked to be cut, and joints that the rest needs, are told otherwise.
      if (told.some(({ cut }) => cut)) continue;
      const shown = new Map(told.filter(({ dropped }) => !dropped).map((part) => [part.key, part]));
      const turns = changes.some(({ do: what }) => what === 'place');
      const balanced = changes.some((change) => change.do === 'pivot' && change.at === 'balance');
      nodes.forEach((node, i) => {
        const part = shown.get(edited.keys[i]) as Part | undefined;
        const words = `${edited.keys[i]}: ${JSON.stringify(changes)}`;
        if (!part) return expect(node.kind, words).toBe('joint');
        expect([part.mirrored, part.flips], words).toEqual([node.mirrored ?? false, node.flips ?? false]);
        expect(part.bounds === null, words).toBe(node.bounds === undefined);
        if (part.bounds && node.bounds) {
          const { beyond, short } = misfit(part.bounds, node.bounds);
          expect(short, words).toBeLessThan(EXACT);
          if (!turns && !changes.some(({ do: what }) => what === 'reset'))
            expect(beyond, words).toBeLessThan(EXACT);
        }
        if (balanced || !part.pivot || !node.pivot) return;
        const reach = Math.max(1e-6, ...node.pivot.map(Math.abs), node.bounds ? sizeOf(node.bounds) : 0);
        const off = Math.max(...part.pivot.map((value, k) => Math.abs(value - (node.pivot as number[])[k])));
        if (!turns) expect(off / reach, `pivot of ${words}`).toBeLessThan(1e-4);
      });
    }
  });
});
