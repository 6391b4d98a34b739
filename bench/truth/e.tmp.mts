import { findDestination } from '@kinkajou/core/destinations/destinations';
import { replay } from '@kinkajou/core/edits/log';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { strangeEdits } from '../fuzz/strangeEdits.ts';
import { strangeUsd } from './strangeUsd.ts';

const seed = Number(process.argv[2]);
const k = strangeUsd(seed);
const asset = await openAsset(memorySource('strange', k.files), k.model);
const edits = strangeEdits(asset, seed);
for (let n = 0; n <= edits.length; n++) {
  const some = edits.slice(0, n);
  const { document, source, images, read } = asset;
  const { receipt } = await handOff({
    document,
    source,
    state: replay(source, some, images).state,
    edits: some,
    findings: [],
    images,
    destination: findDestination('compositor-usd') as never,
    read,
  });
  console.log(n, JSON.stringify(some.at(-1))?.slice(0, 300), receipt.verdict);
}
for (const [i, n] of asset.document.nodes.entries())
  console.log(i, n.name, n.parent, n.mesh, n.materials.join(), n.oneSided);
console.log(asset.document.materials.map((m) => [m.name, m.doubleSided].join(' ')).join(' | '));
