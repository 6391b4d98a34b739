import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { forgetAnswers, listAnswers } from '@/server/services/knowledge';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ answers: await listAnswers() }));
}

/** Forgets one answer, or all with `null`. */
export async function DELETE(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const schema = Joi.object({ id: Joi.number().integer().min(1).allow(null).required() });
    const { id } = check<{ id: number | null }>(schema, await readJson(request));
    return { answers: await forgetAnswers(id) };
  });
}
