import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { requestTrialPictures } from '@/server/services/trialPictures';

/** Most assets that are drawn for one trial. */
const MOST = 20;
const schema = Joi.object({
  book: Joi.object().unknown().required(),
  assets: Joi.array().items(Joi.string().uuid()).min(1).max(MOST).required(),
});

/** Has assets drawn as they are and as a rulebook would leave them. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { book, assets } = check<{ book: unknown; assets: string[] }>(schema, await readJson(request));
    return { job: await requestTrialPictures(book, assets) };
  });
}
