import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { rulebookPast } from '@/server/services/rulebooks';

export const dynamic = 'force-dynamic';

/** What the rulebook said earlier, and where it is in use. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => rulebookPast(await uuidParam(context)));
}
