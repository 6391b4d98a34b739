import { shelfQuery } from '@/server/http/schemas';
import { check, respond } from '@/server/respond';
import { listOpenParcels } from '@/server/services/parcels';
import { type ShelfQuery, shelfPage } from '@/server/services/shelf';

export const dynamic = 'force-dynamic';

/** A page of the shelf, and the parcels that are not simply done. */
export async function GET(request: Request) {
  return respond(async () => {
    const query = check<ShelfQuery>(shelfQuery, Object.fromEntries(new URL(request.url).searchParams));
    const [page, parcels] = await Promise.all([shelfPage(query), listOpenParcels()]);
    return { ...page, parcels };
  });
}
