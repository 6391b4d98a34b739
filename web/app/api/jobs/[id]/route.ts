import { findJob } from '@/server/jobs/queue';
import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';

export const dynamic = 'force-dynamic';

/** How far a job is, and what it returned or why it failed. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => findJob(await uuidParam(context)));
}
