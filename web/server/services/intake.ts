import type { Edit } from '@kinkajou/core/asset/asset';
import { type IntakeChoice, lastingIntake, takesAll } from '@kinkajou/core/scene/intake';
import { eq } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, intakeChoices } from '../db/schema.ts';

/**
 * Keeps what of a choice lasts for the next model of the same source program; taking everything as stated
 * forgets it.
 */
export async function rememberIntake(assetId: string, choice: IntakeChoice): Promise<void> {
  const [asset] = await db().select({ source: assets.source }).from(assets).where(eq(assets.id, assetId));
  const generator = asset?.source.generator;
  if (!generator) return;
  const lasting = lastingIntake(choice);
  if (takesAll(lasting)) {
    await db().delete(intakeChoices).where(eq(intakeChoices.generator, generator));
    return;
  }
  const row = { choice: lasting, updatedAt: new Date() };
  await db()
    .insert(intakeChoices)
    .values({ generator, ...row })
    .onConflictDoUpdate({ target: intakeChoices.generator, set: row });
}

/** The edit that takes a new model as the last one of its program was taken, or null. */
export async function rememberedIntake(generator: string): Promise<Edit | null> {
  if (!generator) return null;
  const [row] = await db().select().from(intakeChoices).where(eq(intakeChoices.generator, generator));
  const choice = row && lastingIntake(row.choice);
  if (!choice || takesAll(choice)) return null;
  return {
    kind: 'setIntake',
    choice,
    origin: { from: 'rule', detail: `as last taken from files by "${generator}"` },
  };
}
