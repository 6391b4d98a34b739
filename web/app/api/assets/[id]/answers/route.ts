import Joi from 'joi';
import { answerFor, askerOf, versionField } from '@/server/asker';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { answerQuestion, type QuestionAnswer } from '@/server/services/answers';

type Call = QuestionAnswer & { version?: string };

const schema = Joi.object({
  finding: Joi.string().max(9000).required(),
  choice: Joi.string().max(9000).required(),
  remember: Joi.boolean().required(),
  version: versionField,
});

/** Answers a question of the asset. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { version, ...answer } = check<Call>(schema, await readJson(request));
    const id = await uuidParam(context);
    const { dropped } = await answerQuestion(id, answer, askerOf(request, version));
    return { ...(await answerFor(id, version)), dropped };
  });
}
