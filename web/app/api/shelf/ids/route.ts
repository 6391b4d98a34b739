import { shelfFilter } from '@/server/http/schemas';
import { check, respond } from '@/server/respond';
import { shelfIds } from '@/server/services/shelf';
import type { ShelfFilter } from '@/server/wire/shelf';

export const dynamic = 'force-dynamic';

/** Ids of all assets that the filters find, on all pages. */
export async function GET(request: Request) {
  return respond(async () => ({
    ids: await shelfIds(
      check<ShelfFilter>(shelfFilter, Object.fromEntries(new URL(request.url).searchParams)),
    ),
  }));
}
