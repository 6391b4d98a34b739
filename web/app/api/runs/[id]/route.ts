import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { findRun } from '@/server/services/runs';

export const dynamic = 'force-dynamic';

/** A run with how each of its assets fared so far. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => findRun(await uuidParam(context)));
}
