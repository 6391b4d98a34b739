import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listRuns, requestRun } from '@/server/services/runs';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  book: Joi.object().unknown().required(),
  assets: Joi.array().items(Joi.string().uuid()).min(1).max(20_000).allow(null).required(),
  apply: Joi.boolean().required(),
});

export async function GET() {
  return respond(async () => ({ runs: await listRuns() }));
}

/** Has a rulebook tried on assets, or applied to them. Null stands for the whole shelf. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { book, assets, apply } = check<{ book: unknown; assets: string[] | null; apply: boolean }>(schema, await readJson(request));
    return { job: await requestRun(book, assets, apply) };
  });
}
