import { desc, eq } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { deliveries } from '../db/schema.ts';

/** Deliveries of an asset, newest first. */
export async function listDeliveries(assetId: string) {
  const rows = await db()
    .select()
    .from(deliveries)
    .where(eq(deliveries.assetId, assetId))
    .orderBy(desc(deliveries.createdAt))
    .limit(50);
  return rows.map(({ id, summary, createdAt }) => ({ id, summary, at: createdAt.toISOString() }));
}
