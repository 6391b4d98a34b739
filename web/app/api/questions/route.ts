import Joi from 'joi';
import type { QuestionAnswer } from '@/server/jobs/kinds';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { answerQuestions, listQuestions } from '@/server/services/questions';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  title: Joi.string().trim().min(1).max(200).required(),
  answers: Joi.array()
    .items(Joi.object({ asset: Joi.string().uuid().required(), finding: Joi.string().max(4096).required(), choice: Joi.string().max(4096).required() }))
    .min(1)
    .max(20_000)
    .required(),
});

/** All that is asked on the shelf, alike doubts as one. */
export async function GET() {
  return respond(async () => ({ questions: await listQuestions() }));
}

/** Answers many of them, in a run. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { title, answers } = check<{ title: string; answers: QuestionAnswer[] }>(schema, await readJson(request));
    return { job: await answerQuestions(title, answers) };
  });
}
