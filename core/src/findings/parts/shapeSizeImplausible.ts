import { type IntakeChoice, intakeSize, LENGTH_UNITS } from '../../scene/intake.ts';
import type { Finding, FindingChoice } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { lengthInWords } from '../surface/materialFinding.ts';
import { boundsOfParts } from './placing.ts';

/**
 * Longest sides in metres beyond which a unit was misread more often than not; tighter where the file states
 * none.
 */
const LARGEST = 100;
const LARGEST_UNSTATED = 30;
const SMALLEST = 0.01;
/** Sizes that things around people have. */
const USUAL = [0.05, 20] as const;

/** An asset far too large or small to be meant so, with the units that would make it plausible. */
export const shapeSizeImplausible: Check = ({ source, state: { intake }, parts }): Finding[] => {
  const bounds = boundsOfParts(parts());
  if (!bounds || !source.shapes) return [];
  const { width, height, depth } = intakeSize(bounds, source.upAxis, source.metresPerUnit, intake);
  const longest = Math.max(width, height, depth);
  const stated = source.unitStated || intake.metresPerUnit !== null;
  if (!(longest > 0) || (longest >= SMALLEST && longest <= (stated ? LARGEST : LARGEST_UNSTATED))) return [];
  const taken = intake.metresPerUnit ?? source.metresPerUnit;
  const fitting = LENGTH_UNITS.map(([name, metres]) => ({
    name,
    metres,
    size: (longest / taken) * metres,
  })).filter(({ metres, size }) => Math.abs(metres - taken) > 1e-12 && size >= USUAL[0] && size <= USUAL[1]);
  const [best] = fitting;
  const whether = source.unitStated ? 'The file states its unit' : 'The file does not state its unit';
  return [
    {
      code: 'shape.sizeImplausible',
      step: 'parts',
      severity: 'warning',
      key: 'shape.sizeImplausible',
      title: longest > 1 ? 'Very large' : 'Very small',
      subject: source.name,
      message: `${source.name}: its longest side is ${lengthInWords(longest)}${best ? `; read in ${best.name} it would be ${lengthInWords(best.size)}` : ''}. ${whether}.`,
      evidence: [
        `one unit is taken as ${taken} m`,
        ...fitting.map(({ name, size }) => `in ${name}: ${lengthInWords(size)}`),
      ],
      mend: null,
      safe: false,
      mendLabel: '',
      choices: [
        ...fitting.map(({ name, metres, size }) =>
          choice(name, { ...intake, metresPerUnit: metres }, lengthInWords(size)),
        ),
      ],
      target: {},
    },
  ];
};

function choice(name: string, taken: IntakeChoice, size: string): FindingChoice {
  return {
    id: name,
    label: `Read in ${name}: ${size}`,
    reason: `its longest side is ${size} then`,
    images: [],
    edits: [{ kind: 'setIntake', choice: taken, origin: { from: 'hand', detail: `read in ${name}` } }],
  };
}
