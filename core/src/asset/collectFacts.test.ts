import { expect, it } from 'vitest';
import { encodeImage } from '../images/encode.ts';
import { testImage } from '../test/assets.ts';
import { collectFacts, createFactsCache } from './collectFacts.ts';

it('looks at a content once for several assets, while there is room', async () => {
  const bytes = await encodeImage(
    { width: 4, height: 4, components: 1, data: Uint8Array.from({ length: 16 }, (_, i) => i * 16) },
    'png',
  );
  const reads: string[] = [];
  const read = async (path: string) => {
    reads.push(path);
    return bytes;
  };
  const [sail, rope, torn] = ['sail.png', 'rope.png', 'torn.png'].map((path) => testImage(path));
  const cache = createFactsCache();
  const { facts } = await collectFacts([sail, rope], read, { cache });
  const again = await collectFacts([rope, sail, torn], read, { cache });
  expect(reads).toEqual(['sail.png', 'rope.png', 'torn.png']);
  expect(again.facts.get(sail.sha256)).toBe(facts.get(sail.sha256));
  expect([...again.facts.keys()]).toEqual([rope.sha256, sail.sha256, torn.sha256]);
  // Room for one: those of before are looked at anew.
  const small = createFactsCache(9_000);
  await collectFacts([sail, rope], read, { cache: small });
  await collectFacts([rope, sail], read, { cache: small });
  expect(reads.slice(3)).toEqual(['sail.png', 'rope.png', 'sail.png']);
});
