import { toKinkajouError } from '@kinkajou/core/errors';
import { and, desc, eq, isNotNull } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { handoffs } from '../db/schema.ts';
import type { ComparedPackage } from '../wire/compared.ts';
import { compareWhole } from './compareWhole.ts';

/** Holds the last package of an asset for each destination against the asset with its edits. */
export async function comparePackages(assetId: string): Promise<ComparedPackage[]> {
  const rows = await db()
    .selectDistinctOn([handoffs.destination], { id: handoffs.id, destination: handoffs.destination })
    .from(handoffs)
    .where(and(eq(handoffs.assetId, assetId), isNotNull(handoffs.zip)))
    .orderBy(handoffs.destination, desc(handoffs.createdAt));
  const compared: ComparedPackage[] = [];
  for (const { id, destination } of rows)
    compared.push(
      await compareWhole(assetId, 'edited', `handoff:${id}`).then(
        ({ verdict, differences }) => ({
          destination,
          verdict: verdict ?? 'changed',
          differences: differences.filter(({ exempt }) => exempt === null).length,
          reason: null,
        }),
        (error) => ({
          destination,
          verdict: 'unreadable' as const,
          differences: 0,
          reason: toKinkajouError(error).message,
        }),
      ),
    );
  return compared;
}
