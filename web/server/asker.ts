import Joi from 'joi';
import { check } from './respond.ts';
import { benchAnswer, benchView } from './services/benchView.ts';
import type { Asker } from './services/edits.ts';
import { revisionOf } from './services/revisions.ts';
import type { BenchAnswer, BenchView } from './wire/bench.ts';
import { PAGE_HEADER } from './wire/page.ts';

/** What a request says of the version that its page has seen. */
export const versionField = Joi.string().pattern(/^\d{1,9}\.\d{1,9}$/);

/** Who asks: the page, and the revision that it saw. */
export function askerOf(request: Request, version: string | undefined): Asker {
  const author = check<string>(Joi.string().max(64).allow(''), request.headers.get(PAGE_HEADER) ?? '');
  return { author, seen: version === undefined ? undefined : revisionOf(version) };
}

/** A page that named its version is told what changed since; a script gets the whole view. */
export function answerFor(id: string, version: string | undefined): Promise<BenchAnswer | BenchView> {
  return version === undefined ? benchView(id) : benchAnswer(id, version);
}
