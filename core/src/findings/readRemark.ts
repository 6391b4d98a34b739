import type { Edit } from '../asset/asset.ts';
import type { Remark } from '../scene/document.ts';
import type { Check, Finding, FindingChoice, FindingContext } from './finding.ts';
import { scalarOf, shown } from './materialFinding.ts';

/** What the reader could not take as it stood; equal remarks are one finding with their count. */
export const readRemark: Check = (context) =>
  context.source.remarks.flatMap((remark): Finding[] => {
    const choices = remark.code === 'read.opacityContradiction' ? opacityChoices(remark, context) : [];
    if (choices === null) return [];
    return [
      {
        code: remark.code,
        step: 'intake',
        severity: remark.severity,
        key: `${remark.code}:${remark.subject}`,
        title: TITLES[remark.code] ?? 'Met while reading',
        subject: remark.subject,
        message: `${remark.subject}: ${remark.message}${remark.count > 1 ? ` (${remark.count.toLocaleString('en')} times)` : ''}.`,
        evidence: [],
        mend: null,
        safe: false,
        mendLabel: '',
        ...(choices.length > 0 ? { choices } : {}),
        target: {},
      },
    ];
  });

/** Ways to settle an opacity that contradicts itself; null once an edit has settled it. */
function opacityChoices({ subject }: Remark, { state }: FindingContext): FindingChoice[] | null {
  const material = state.materials.find(({ name }) => name === subject);
  if (!material) return [];
  const opacity = material.channels.opacity;
  if (opacity && opacity.source.from !== 'file') return null;
  const choice = (id: string, label: string, value: number): FindingChoice => {
    const edit: Edit = {
      kind: 'setAlpha',
      materials: [material.key],
      change: { opacity: value, alphaMode: value === 1 ? 'opaque' : 'blend' },
      origin: { from: 'hand', detail: 'the file contradicts itself' },
    };
    return { id, label, reason: '', images: [], edits: [edit] };
  };
  const taken = scalarOf(material, 'opacity', 1);
  return [choice('opaque', 'Opaque', 1), ...(taken === 1 ? [] : [choice('taken', `Opacity ${shown(taken)}`, taken)])];
}

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
