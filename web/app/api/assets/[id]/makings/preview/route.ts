import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { previewDerivedMap } from '@/server/services/derivedMaps';
import { previewSchema } from '../schema.ts';

/** What a recipe would make, in small; nothing is kept. */
export async function POST(http: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(http);
    const { closeUp, ...request } = check<MakeRequest & { closeUp: boolean }>(
      previewSchema,
      await readJson(http),
    );
    return previewDerivedMap(await uuidParam(context), request, closeUp);
  });
}
