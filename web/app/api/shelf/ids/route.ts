import Joi from 'joi';
import { check, respond } from '@/server/respond';
import { shelfIds } from '@/server/services/shelf';
import { SHELF_FILTER } from '@/server/shelfSchema';
import type { ShelfFilter } from '@/server/wire/shelf';

export const dynamic = 'force-dynamic';

const schema = Joi.object(SHELF_FILTER);

/** Ids of all assets that the filters find, on all pages. */
export async function GET(request: Request) {
  return respond(async () => ({ ids: await shelfIds(check<ShelfFilter>(schema, Object.fromEntries(new URL(request.url).searchParams))) }));
}
