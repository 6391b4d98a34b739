import { expect, it } from 'vitest';
import { type Edit, initialState } from './asset/asset.ts';
import { replay } from './edits/log.ts';
import type { Finding } from './findings/finding.ts';
import { mendInRounds } from './inspect.ts';
import { testMaterial, testSource, testState } from './test/assets.ts';

const source = testSource(testState([testMaterial('Hull')], []));

/** Two checks of different minds: whichever roughness stands, one of them wants the other. */
function look(edits: readonly Edit[]) {
  const state = edits.length > 0 ? replay(source, edits, []).state : initialState(source);
  const value = state.materials[0].channels.roughness?.value === 0 ? 1 : 0;
  const finding: Finding = {
    code: 'slot.pixels',
    step: 'slots',
    severity: 'warning',
    key: `to ${value}`,
    title: 'Other',
    subject: 'Hull',
    message: '',
    evidence: [],
    target: {},
    mendLabel: 'Take',
    mend: {
      kind: 'setValues',
      slots: [{ material: state.materials[0].key, channel: 'roughness' }],
      value,
      origin: { from: 'evidence', detail: 'a check' },
    },
    safe: true,
  };
  return { state, findings: [finding] };
}

it('takes no mend twice, and leaves to a person what two of them undo for each other', () => {
  const { edits, findings } = mendInRounds([], look, () => true);
  expect(edits.map((edit) => edit.kind === 'setValues' && edit.value)).toEqual([0, 1]);
  expect(findings.map(({ key }) => key)).toEqual(['to 0']);
});
