import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { previewMaking } from '@/server/services/makings';
import { previewSchema } from '../schema.ts';

/** What a recipe would make, in small; nothing is kept. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { closeUp, ...wanted } = check<MakeRequest & { closeUp: boolean }>(previewSchema, await readJson(request));
    return previewMaking(await uuidParam(context), wanted, closeUp);
  });
}
