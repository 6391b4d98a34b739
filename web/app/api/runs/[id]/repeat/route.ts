import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { repeatRun } from '@/server/services/runs';

export const dynamic = 'force-dynamic';

/** Does again what could not be done, and what a run that was stopped did not come to. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return { job: await repeatRun(await uuidParam(context)) };
  });
}
