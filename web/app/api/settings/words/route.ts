import { CHANNELS, type ChannelName } from '@kinkajou/core/scene/material';
import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listWords, removeWord, saveWord } from '@/server/services/knowledge';

export const dynamic = 'force-dynamic';

const word = Joi.string().trim().min(1).max(64).required();
const channel = Joi.string()
  .valid(...CHANNELS)
  .required();

export async function GET() {
  return respond(async () => ({ words: await listWords() }));
}

export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const call = check<{ word: string; channel: ChannelName }>(
      Joi.object({ word, channel }),
      await readJson(request),
    );
    return { words: await saveWord(call.word, call.channel) };
  });
}

export async function DELETE(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const call = check<{ word: string }>(Joi.object({ word }), await readJson(request));
    return { words: await removeWord(call.word) };
  });
}
