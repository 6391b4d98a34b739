import { countSeverities } from '@kinkajou/core/findings/checks';
import { doubtsOf } from '@kinkajou/core/findings/doubts';
import type { Finding } from '@kinkajou/core/findings/finding';
import { sql } from 'drizzle-orm';
import { assets } from '../db/schema.ts';

/**
 * What the row of a new asset keeps of its findings, so that the shelf can be filtered, sorted and counted by
 * them.
 */
export function firstTally(findings: readonly Finding[]) {
  const open = Object.fromEntries(findings.map(({ code, title }) => [code, title]));
  return { severities: countSeverities(findings), doubts: doubtsOf(findings), open, found: open };
}

/** The same of one that is there: what was found before stays found. */
export function laterTally(findings: readonly Finding[]) {
  const tally = firstTally(findings);
  return { ...tally, found: sql`${assets.found} || ${JSON.stringify(tally.open)}::jsonb` };
}
