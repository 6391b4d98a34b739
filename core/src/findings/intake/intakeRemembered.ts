import type { Edit } from '../../asset/asset.ts';
import { describeIntake, type IntakeChoice, TAKE_ALL, takesAll } from '../../scene/intake.ts';
import type { FindingChoice } from '../finding.ts';
import type { Check } from '../findingContext.ts';

/** A model that was taken as the last one of its program was: shown, to be kept or taken back. */
export const intakeRemembered: Check = ({ source, state: { intake, intakeFrom } }) => {
  if (intakeFrom?.from !== 'rule' || takesAll(intake)) return [];
  const resized = intake.up !== null || intake.metresPerUnit !== null;
  return [
    {
      code: 'intake.remembered',
      step: 'intake',
      // What changes its size or lays it down is to be seen before it goes out.
      severity: resized ? 'warning' : 'note',
      key: 'intake.remembered',
      title: 'Taken as the last one',
      subject: source.name,
      message: `${describeIntake(intake)}, ${intakeFrom.detail}.`,
      evidence: [intakeFrom.detail],
      mend: null,
      safe: false,
      mendLabel: '',
      choices: [choice('keep', 'Keep it so', intake), choice('stated', 'As the file states', TAKE_ALL)],
      target: {},
    },
  ];
};

function choice(id: string, label: string, taken: IntakeChoice): FindingChoice {
  const edit: Edit = { kind: 'setIntake', choice: taken, origin: { from: 'hand', detail: label } };
  return { id, label, reason: describeIntake(taken), images: [], edits: [edit] };
}
