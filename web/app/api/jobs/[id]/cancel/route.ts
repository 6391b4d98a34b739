import { cancelJob } from '@/server/jobs/queue';
import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';

/** Stops a job; a handoff and what makes images have the ids of theirs. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await cancelJob(await uuidParam(context));
  });
}
