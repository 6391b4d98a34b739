import { versionField } from '@/server/asker';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, respond } from '@/server/respond';
import { benchAnswer } from '@/server/services/benchView';

export const dynamic = 'force-dynamic';

/** All that a page needs of an asset, or with `?since=VERSION` what changed. */
export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const since = new URL(request.url).searchParams.get('since');
    return benchAnswer(await uuidParam(context), since === null ? null : check<string>(versionField, since));
  });
}
