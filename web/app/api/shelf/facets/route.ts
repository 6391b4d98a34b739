import { respond } from '@/server/respond';
import { shelfFacets } from '@/server/services/shelf';

export const dynamic = 'force-dynamic';

/** What the filters of the shelf can be set to. */
export async function GET() {
  return respond(shelfFacets);
}
