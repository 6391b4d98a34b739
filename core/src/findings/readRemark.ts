import type { Check } from './finding.ts';

/** What the reader could not take as it stood; equal remarks are one finding with their count. */
export const readRemark: Check = ({ source }) =>
  source.remarks.map((remark) => ({
    code: remark.code,
    step: 'intake' as const,
    severity: remark.severity,
    key: `${remark.code}:${remark.subject}`,
    title: TITLES[remark.code] ?? 'Met while reading',
    subject: remark.subject,
    message: `${remark.subject}: ${remark.message}${remark.count > 1 ? ` (${remark.count.toLocaleString('en')} times)` : ''}.`,
    evidence: [],
    mend: null,
    safe: false,
    mendLabel: '',
    target: {},
  }));

const TITLES: Record<string, string> = {
  'read.notCarried': 'Not carried over',
  'read.unknownStatement': 'Statement not understood',
  'read.indexRange': 'Faces with false indices',
  'read.thinFace': 'Faces with too few corners',
  'read.badNumber': 'Numbers that cannot be read',
  'read.libraryMissing': 'Material library missing',
  'read.libraryGuessed': 'Material library guessed',
  'read.materialMissing': 'Material not defined',
  'read.opacityContradiction': 'Opacity contradicts itself',
  'read.truncated': 'The file is cut off',
  'read.layer': 'A mesh layer was left out',
  'read.unit': 'Unit not stated',
  'read.noFaces': 'Nothing to show',
  'read.composition': 'A layer was not followed',
};
