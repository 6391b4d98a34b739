import { type RouteParams, uuidParam } from '@/server/params';
import { checkHost, respond } from '@/server/respond';
import { arrivalReport } from '@/server/services/arrivals';
import { checkToken } from '@/server/services/tokens';

export const dynamic = 'force-dynamic';

/** How an arrival stands, with its packages and what needs a person. */
export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkHost(request);
    await checkToken(request);
    return arrivalReport(await uuidParam(context));
  });
}
