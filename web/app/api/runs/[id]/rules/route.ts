import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { learnFromRun } from '@/server/services/rulebooks';

export const dynamic = 'force-dynamic';

/** Makes a rulebook of what a run settled by answers and mends. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return learnFromRun(await uuidParam(context));
  });
}
