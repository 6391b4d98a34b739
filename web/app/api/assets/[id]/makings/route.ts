import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listDerivedMaps, requestDerivedMap } from '@/server/services/derivedMaps';
import { makeSchema } from './schema.ts';

export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => ({ makings: await listDerivedMaps(await uuidParam(context)) }));
}

/** Makes new images from materials' own by a recipe; the job puts them to use when it is done. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return {
      job: await requestDerivedMap(
        await uuidParam(context),
        check<MakeRequest>(makeSchema, await readJson(request)),
      ),
    };
  });
}
