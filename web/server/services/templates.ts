import { findMaterial } from '@kinkajou/core/asset/asset';
import { learnTemplate, type SlotTemplate } from '@kinkajou/core/asset/templates';
import { KinkajouError } from '@kinkajou/core/errors';
import { asc, eq } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { slotTemplates } from '../db/schema.ts';
import { currentState } from './assetState.ts';

/** Slots that were learned from a material, under a name. */
export interface StoredTemplate {
  id: number;
  name: string;
  template: SlotTemplate;
}

/** Templates by name. */
export async function listTemplates(): Promise<StoredTemplate[]> {
  const rows = await db().select().from(slotTemplates).orderBy(asc(slotTemplates.name));
  return rows.map(({ id, name, template }) => ({ id, name, template }));
}

/** Saves the wiring of one material under a name; a template of that name is replaced. */
export async function saveTemplate(
  assetId: string,
  material: string,
  name: string,
): Promise<StoredTemplate[]> {
  const { state, context } = await currentState(assetId);
  const found = findMaterial(state, material);
  if (!found) throw new KinkajouError('template.material', `there is no material "${material}"`);
  const template = learnTemplate(found, state, [...context.detected.values()]);
  if (template.slots.length === 0)
    throw new KinkajouError('template.empty', `${material} has no filled slot to learn from`);
  await db()
    .insert(slotTemplates)
    .values({ name, template })
    .onConflictDoUpdate({ target: slotTemplates.name, set: { template } });
  return listTemplates();
}

/** Forgets a template; resolves to those that are left. */
export async function removeTemplate(id: number): Promise<StoredTemplate[]> {
  await db().delete(slotTemplates).where(eq(slotTemplates.id, id));
  return listTemplates();
}
