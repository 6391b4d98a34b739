import type { Edit } from '../../asset/asset.ts';
import { own } from '../../own.ts';
import type { Remark } from '../../scene/document.ts';
import type { Material } from '../../scene/material.ts';
import { type Finding, type FindingChoice, SEVERITIES } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import { scalarOf, shown } from '../surface/materialFinding.ts';

const CONTRADICTION = 'read.opacityContradiction';

/**
 * What the reader could not take as it stood; equal remarks are one finding with their count, opacities are
 * one for all materials.
 */
export const readRemark: Check = (context) => {
  const { remarks } = context.source;
  return [
    ...remarks.filter(({ code }) => code !== CONTRADICTION).map(remarkFinding),
    ...contradictions(context),
  ];
};

function remarkFinding({ code, severity, subject, message, count }: Remark): Finding {
  return {
    code,
    step: /^(shape|part)\./.test(code) ? 'parts' : 'intake',
    severity,
    key: `${code}:${subject}`,
    title: own(TITLES, code) ?? 'Met while reading',
    subject,
    message: `${subject}: ${message}${count > 1 ? ` (${count.toLocaleString('en')} times)` : ''}.`,
    evidence: [],
    mend: null,
    safe: false,
    mendLabel: '',
    target: {},
  };
}

/**
 * Materials whose file says two opacities, until an edit has said which holds; asked once for all of them.
 */
function contradictions({ source, state }: FindingContext): Finding[] {
  const open = source.remarks.flatMap((remark) => {
    if (remark.code !== CONTRADICTION) return [];
    const material = state.materials.find(({ name }) => name === remark.subject);
    return material && !isResolved(material) ? [{ remark, material }] : [];
  });
  const [first] = open;
  if (!first) return [];
  const severity =
    SEVERITIES.find((severity) => open.some(({ remark }) => remark.severity === severity)) ?? 'note';
  const materials = open.map(({ material }) => material);
  return [
    {
      code: CONTRADICTION,
      step: 'intake',
      severity,
      key: CONTRADICTION,
      title: TITLES[CONTRADICTION],
      subject: first.material.key,
      message: `${first.material.key}: ${first.remark.message}${open.length > 1 ? `; ${open.length - 1} more ${open.length === 2 ? 'material' : 'materials'} likewise` : ''}.`,
      evidence: open.map(({ remark, material }) => `${material.key}: ${remark.message}`),
      mend: null,
      safe: false,
      mendLabel: '',
      choices: opacityChoices(materials),
      target: { material: first.material.key, channel: 'opacity' },
    },
  ];
}

/** An edit has said what the opacity is. */
function isResolved({ channels: { opacity } }: Material): boolean {
  return opacity !== undefined && opacity.source.from !== 'file';
}

/** All opaque, or each as it was taken. */
function opacityChoices(materials: readonly Material[]): FindingChoice[] {
  const byValue = new Map<number, string[]>();
  for (const material of materials) {
    const value = scalarOf(material, 'opacity', 1);
    byValue.set(value, [...(byValue.get(value) ?? []), material.key]);
  }
  const values = [...byValue.keys()].filter((value) => value !== 1).map(shown);
  const label = values.length === 1 ? `Opacity ${values[0]}` : 'As taken from the file';
  const taken = [...byValue].map(([value, keys]) => settle(keys, value));
  const opaque: FindingChoice = {
    id: 'opaque',
    label: 'Opaque',
    reason: '',
    images: [],
    edits: [
      settle(
        materials.map(({ key }) => key),
        1,
      ),
    ],
  };
  return [
    opaque,
    ...(values.length > 0 ? [{ id: 'taken', label, reason: '', images: [], edits: taken }] : []),
  ];
}

function settle(materials: string[], opacity: number): Edit {
  return {
    kind: 'setAlpha',
    materials,
    change: { opacity, alphaMode: opacity === 1 ? 'opaque' : 'blend' },
    origin: { from: 'hand', detail: 'the file contradicts itself' },
  };
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
  'read.cut': 'The file is cut off',
  'read.layer': 'A mesh layer was left out',
  'read.unit': 'Unit not stated',
  'read.noFaces': 'Nothing to show',
  'shape.notFinite': 'Coordinates that are no numbers',
  'part.empty': 'Empty part',
  'read.composition': 'A layer was not followed',
};
