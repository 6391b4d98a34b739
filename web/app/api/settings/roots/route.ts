import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { addRoot } from '@/server/services/searchRoots';

const schema = Joi.object({ path: Joi.string().trim().min(1).max(4096).required() });

/** Adds a search folder; a worker indexes it. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    await addRoot(check<{ path: string }>(schema, await readJson(request)).path);
  });
}
