import { countSeverities } from '@kinkajou/core/findings/checks';
import { doubtsOf } from '@kinkajou/core/findings/doubts';
import type { Finding } from '@kinkajou/core/findings/finding';

/** What an asset's row keeps of its findings, so that the shelf can be filtered and sorted by them. */
export function tallyOf(findings: readonly Finding[]) {
  return { severities: countSeverities(findings), doubts: doubtsOf(findings), open: Object.fromEntries(findings.map(({ code, title }) => [code, title])) };
}
