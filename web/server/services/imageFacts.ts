import type { ParcelImage } from '@kinkajou/core/asset/asset';
import type { FactsByHash } from '@kinkajou/core/asset/collectFacts';
import { FACTS_VERSION, type PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { eq, inArray } from 'drizzle-orm';
import { LRUCache } from 'lru-cache';
import { db } from '../db/client.ts';
import { imageFacts } from '../db/schema.ts';

/** Facts never change for a content, so each process keeps those that it has read. */
const typed = new LRUCache<string, PixelFacts>({ max: 20_000 });

/** What is known of the pixels of these images. */
export async function factsFor(images: readonly ParcelImage[]): Promise<FactsByHash> {
  const hashes = hashesOf(images);
  const found = new Map<string, PixelFacts>();
  const unknown: string[] = [];
  for (const hash of hashes) {
    const facts = typed.get(hash);
    if (facts) found.set(hash, facts);
    else unknown.push(hash);
  }
  if (unknown.length === 0) return found;
  for (const row of await db().select().from(imageFacts).where(inArray(imageFacts.sha256, unknown))) {
    if (!row.facts || row.version !== FACTS_VERSION) continue;
    typed.set(row.sha256, row.facts);
    found.set(row.sha256, row.facts);
  }
  return found;
}

/** How many of the images were looked at, those included whose pixels turned out to be damaged. */
export async function countLooked(
  images: readonly ParcelImage[],
  facts: FactsByHash,
): Promise<{ done: number; total: number }> {
  const hashes = hashesOf(images);
  const without = hashes.filter((hash) => !facts.has(hash));
  if (without.length === 0) return { done: hashes.length, total: hashes.length };
  const damaged = await db()
    .select({ sha256: imageFacts.sha256 })
    .from(imageFacts)
    .where(inArray(imageFacts.sha256, without));
  return { done: hashes.length - without.length + damaged.length, total: hashes.length };
}

/** What is known of one content. */
export async function factsOf(sha256: string): Promise<PixelFacts | null> {
  const [row] = await db().select().from(imageFacts).where(eq(imageFacts.sha256, sha256));
  return row?.version === FACTS_VERSION ? row.facts : null;
}

function hashesOf(images: readonly ParcelImage[]): string[] {
  return [...new Set(images.filter((image) => image.info).map((image) => image.sha256))];
}
