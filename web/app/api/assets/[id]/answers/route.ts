import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { answerQuestion, type QuestionAnswer } from '@/server/services/answers';

const schema = Joi.object({
  finding: Joi.string().max(9000).required(),
  choice: Joi.string().max(9000).required(),
  remember: Joi.boolean().required(),
});

/** Answers a question of the asset; the answer carries the new state. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return answerQuestion(await uuidParam(context), check<QuestionAnswer>(schema, await readJson(request)));
  });
}
