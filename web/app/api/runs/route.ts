import { runRequest } from '@/server/http/schemas';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listRuns, type RunRequest, requestRun } from '@/server/services/runs';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ runs: await listRuns() }));
}

/**
 * Has something done to assets, or tried on them: rules, mends, packages, removal. Null stands for the whole
 * shelf.
 */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    return { job: await requestRun(check<RunRequest>(runRequest, await readJson(request))) };
  });
}
