import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listRuns, type RunRequest, requestRun } from '@/server/services/runs';
import { SHELF_FILTER } from '@/server/shelfSchema';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  title: Joi.string().trim().min(1).max(200),
  book: Joi.object().unknown(),
  mend: Joi.boolean(),
  destinations: Joi.array().items(Joi.string().max(100)).min(1).max(50),
  remove: Joi.boolean(),
  assets: Joi.array().items(Joi.string().uuid()).min(1).max(20_000).allow(null),
  filter: Joi.object(SHELF_FILTER),
  apply: Joi.boolean().required(),
})
  .or('book', 'mend', 'destinations', 'remove')
  .xor('assets', 'filter');

export async function GET() {
  return respond(async () => ({ runs: await listRuns() }));
}

/** Has something done to assets, or tried on them: rules, mends, packages, removal. Null stands for the whole shelf. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    return { job: await requestRun(check<RunRequest>(schema, await readJson(request))) };
  });
}
