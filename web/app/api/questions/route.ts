import { answersRequest } from '@/server/http/schemas';
import type { QuestionAnswer } from '@/server/jobs/kinds';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { answerQuestions, listQuestions } from '@/server/services/questions';

export const dynamic = 'force-dynamic';

/** All that is asked on the shelf, alike doubts as one. */
export async function GET() {
  return respond(async () => ({ questions: await listQuestions() }));
}

/** Answers many of them, in a run. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { title, answers } = check<{ title: string; answers: QuestionAnswer[] }>(
      answersRequest,
      await readJson(request),
    );
    return { job: await answerQuestions(title, answers) };
  });
}
