import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { keepSelection, listSelections, type SelectionEntry } from '@/server/services/selections';
import { SHELF_FILTER } from '@/server/shelfSchema';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  name: Joi.string().trim().min(1).max(100).required(),
  filter: Joi.object(SHELF_FILTER).required(),
  assets: Joi.array().items(Joi.string().uuid()).min(1).max(20_000).allow(null).required(),
});

export async function GET() {
  return respond(async () => ({ selections: await listSelections() }));
}

/** Keeps a selection under a name; one of that name is replaced. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    return { selections: await keepSelection(check<Omit<SelectionEntry, 'id'>>(schema, await readJson(request))) };
  });
}
