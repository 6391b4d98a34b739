import Joi from 'joi';
import { check, respond } from '@/server/respond';
import { listOpenParcels } from '@/server/services/parcels';
import { SHELF_SORTS, type ShelfQuery, shelfPage } from '@/server/services/shelf';
import { SHELF_FILTER } from '@/server/shelfSchema';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  ...SHELF_FILTER,
  sort: Joi.string().valid(...SHELF_SORTS),
  removed: Joi.boolean(),
  offset: Joi.number().integer().min(0),
  limit: Joi.number().integer().min(1).max(10_000),
});

/** A page of the shelf, and the parcels that are not simply done. */
export async function GET(request: Request) {
  return respond(async () => {
    const query = check<ShelfQuery>(schema, Object.fromEntries(new URL(request.url).searchParams));
    const [page, parcels] = await Promise.all([shelfPage(query), listOpenParcels()]);
    return { ...page, parcels };
  });
}
