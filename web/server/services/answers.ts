import { KinkajouError } from '@kinkajou/core/errors';
import { answerOf } from '@kinkajou/core/sets/answers';
import { db } from '../db/client.ts';
import { setAnswers } from '../db/schema.ts';
import { currentState } from './assetState.ts';
import { type Added, type Asker, addEdits } from './edits.ts';
import { moveKnowledge } from './revisions.ts';

/** A question that was answered on the bench. */
export interface QuestionAnswer {
  /** Key of the finding that asks. */
  finding: string;
  choice: string;
  /** Keep the answer as evidence for later parcels of the same source. */
  remember: boolean;
}

/**
 * Applies what follows from an answer. Throws `question.gone` where the finding or the choice is there no
 * more.
 */
export async function answerQuestion(
  assetId: string,
  { finding: key, choice: id, remember }: QuestionAnswer,
  asker: Asker = {},
): Promise<Added> {
  const { asset, findings, context } = await currentState(assetId);
  const finding = findings.find((other) => other.key === key);
  const choice = finding?.choices?.find((other) => other.id === id);
  if (!finding || !choice)
    throw new KinkajouError(
      'question.gone',
      'this question is settled already',
      {},
      'Look at what is open now.',
    );
  const set = finding.code === 'set.ambiguous' ? context.sets().find((other) => other.id === id) : undefined;
  const material = context.state.materials.find((other) => other.key === finding.subject);
  if (remember && set && material) {
    const answer = answerOf(asset.source, material.name, set);
    await db().insert(setAnswers).values({ answer, asset: asset.name }).onConflictDoNothing();
    await moveKnowledge();
  }
  return addEdits(assetId, choice.edits, asker);
}
