import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { undoRun } from '@/server/services/runs';

export const dynamic = 'force-dynamic';

/** Brings the assets of a run back to what they were, but for those that have moved on. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return undoRun(await uuidParam(context));
  });
}
