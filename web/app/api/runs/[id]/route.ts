import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { runWithPackages } from '@/server/services/runPackages';

export const dynamic = 'force-dynamic';

/** A run with how each of its assets and packages fared so far. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => runWithPackages(await uuidParam(context)));
}
