import type { Edit } from '@kinkajou/core/asset/asset';
import { type IntakeChoice, takesAll } from '@kinkajou/core/scene/intake';
import { eq } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, intakeChoices } from '../db/schema.ts';

/** Keeps a choice for the next model of the same source program; taking everything as stated forgets it. */
export async function rememberIntake(assetId: string, choice: IntakeChoice): Promise<void> {
  const [asset] = await db().select({ source: assets.source }).from(assets).where(eq(assets.id, assetId));
  const generator = asset?.source.generator;
  if (!generator) return;
  if (takesAll(choice)) {
    await db().delete(intakeChoices).where(eq(intakeChoices.generator, generator));
    return;
  }
  const row = { choice, updatedAt: new Date() };
  await db()
    .insert(intakeChoices)
    .values({ generator, ...row })
    .onConflictDoUpdate({ target: intakeChoices.generator, set: row });
}

/** The edit that takes a new model as the last one of its program was taken, or null. */
export async function rememberedIntake(generator: string): Promise<Edit | null> {
  if (!generator) return null;
  const [row] = await db().select().from(intakeChoices).where(eq(intakeChoices.generator, generator));
  if (!row) return null;
  return { kind: 'setIntake', choice: row.choice, origin: { from: 'rule', detail: `as last taken from files by "${generator}"` } };
}
