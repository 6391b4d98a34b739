import type { Finding, FindingChoice, Severity, Step } from './finding.ts';

/** A finding that asks, with what there is to choose from, without the edits. Plain JSON. */
export interface Doubt {
  /** Key of the finding. */
  key: string;
  /**
   * The same for all that are alike, in whatever asset: same code, same names but for their numbers, same
   * evidence.
   */
  kind: string;
  code: string;
  step: Step;
  severity: Severity;
  title: string;
  subject: string;
  message: string;
  evidence: string[];
  choices: (Pick<FindingChoice, 'id' | 'label' | 'reason' | 'images'> & { kind: string })[];
}

/** Everything that is asked. */
export function doubtsOf(findings: readonly Finding[]): Doubt[] {
  return findings.flatMap(
    ({ key, code, step, severity, title, subject, message, evidence, target, choices = [] }): Doubt[] => {
      if (choices.length === 0) return [];
      const answers = choices.map(({ id, label, reason, images }) => ({
        id,
        label,
        reason,
        images,
        kind: numberless(id),
      }));
      const kind = JSON.stringify([
        code,
        target.channel ?? '',
        numberless(subject),
        answers.map((choice) => choice.kind),
        evidence.map(numberless),
      ]);
      return [{ key, kind, code, step, severity, title, subject, message, evidence, choices: answers }];
    },
  );
}

/** A text with every number as `#`: what stays the same from one of a series to the next. */
export function numberless(text: string): string {
  return text.replaceAll(/\d+(?:[.,]\d+)*/g, '#');
}
