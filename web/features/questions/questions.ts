import type { Finding, FindingChoice } from '@kinkajou/core/findings/finding';

/** A finding that a person answers by choosing. */
export interface Question {
  finding: Finding;
  choices: readonly FindingChoice[];
}

/** Everything that is asked, in the order of the docket. */
export function questionsOf(findings: readonly Finding[]): Question[] {
  return findings.flatMap((finding) => (asks(finding) ? [{ finding, choices: finding.choices ?? [] }] : []));
}

/** Whether a finding offers answers to choose from. */
export function asks({ choices = [] }: Finding): boolean {
  return choices.length > 0;
}

/** The question beside another one, round and round; null where nothing is asked. */
export function besideQuestion(findings: readonly Finding[], key: string | null, by: 1 | -1): string | null {
  const keys = questionsOf(findings).map(({ finding }) => finding.key);
  if (keys.length === 0) return null;
  const index = key === null ? -1 : keys.indexOf(key);
  if (index < 0) return keys[by === 1 ? 0 : keys.length - 1];
  return keys[(index + by + keys.length) % keys.length];
}

/** Title of a question: about a set it asks whose images these are. */
export function questionTitle({ code, subject, title }: Pick<Finding, 'code' | 'subject' | 'title'>): string {
  return code === 'set.ambiguous' ? `Which images belong to ${subject}?` : title;
}
