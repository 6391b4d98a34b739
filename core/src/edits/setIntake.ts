import { describeIntake } from '../scene/intake.ts';
import type { EditDefinition } from './editKind.ts';

/** Chooses what is taken from the model, and how its axes, unit and size are understood. */
export const setIntake: EditDefinition<'setIntake'> = {
  apply(draft, edit) {
    draft.intake = edit.choice;
    draft.intakeFrom = edit.origin;
  },
  describe: (edit) => describeIntake(edit.choice),
};
