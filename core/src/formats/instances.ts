import { addRemark, type SceneDocument } from '../scene/document.ts';

/** Instances of one list that are placed as parts of their own. */
export const MOST_INSTANCES = 100_000;

/** Remarks that a source holds more instances than `MOST_INSTANCES`; the rest is not carried. */
export function tellTooMany({ remarks }: SceneDocument, subject: string, count: number): void {
  if (count <= MOST_INSTANCES) return;
  const message = `there are ${count} instances; only the first ${MOST_INSTANCES} are carried`;
  addRemark(remarks, { code: 'read.notCarried', severity: 'error', subject, message });
}
