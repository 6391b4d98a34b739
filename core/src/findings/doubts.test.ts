import { describe, expect, it } from 'vitest';
import { countSeverities } from './checks.ts';
import { doubtsOf, numberless } from './doubts.ts';
import type { Finding } from './finding.ts';

const asking = (n: number, part: Partial<Finding> = {}): Finding => ({
  code: 'link.ambiguous',
  step: 'links',
  severity: 'warning',
  key: `link.ambiguous:berth_${n}.png`,
  title: 'Several images fit',
  subject: `berth_${n}.png`,
  message: `berth_${n}.png: 2 files may be meant`,
  evidence: [`berth_${n}/dry/berth_${n}.png: same name (0.9${n})`],
  mend: null,
  safe: false,
  mendLabel: '',
  choices: ['dry', 'wet'].map((folder) => ({
    id: `berth_${n}/${folder}/berth_${n}.png`,
    label: folder,
    reason: '',
    images: [],
    edits: [],
  })),
  target: { image: `berth_${n}.png` },
  ...part,
});

describe('findings', () => {
  it('are counted by how bad they are', () => {
    const many = (['error', 'warning', 'warning', 'note', 'note', 'note'] as const).map((severity, i) =>
      asking(i, { severity }),
    );
    expect(countSeverities(many)).toEqual({ error: 1, warning: 2, note: 3 });
    expect(countSeverities([])).toEqual({ error: 0, warning: 0, note: 0 });
  });
});

describe('doubts', () => {
  it('are findings with something to choose, without what would follow', () => {
    const [doubt, ...more] = doubtsOf([
      asking(2),
      asking(3, { choices: undefined }),
      asking(4, { choices: [] }),
    ]);
    expect(more).toEqual([]);
    expect(doubt).toMatchObject({
      key: 'link.ambiguous:berth_2.png',
      code: 'link.ambiguous',
      subject: 'berth_2.png',
    });
    expect(doubt.choices.map(({ id, kind }) => [id, kind])).toEqual([
      ['berth_2/dry/berth_2.png', 'berth_#/dry/berth_#.png'],
      ['berth_2/wet/berth_2.png', 'berth_#/wet/berth_#.png'],
    ]);
    expect(doubt.choices[0]).not.toHaveProperty('edits');
  });

  it('are alike where only numbers differ, and not where code, channel, names, evidence or answers do', () => {
    const kind = (finding: Finding) => doubtsOf([finding])[0].kind;
    expect(kind(asking(7))).toBe(kind(asking(12)));
    const others: Partial<Finding>[] = [
      { code: 'link.missing' },
      { target: { channel: 'roughness' } },
      { subject: 'buoy_7.png' },
      { evidence: ['found by another way'] },
      { choices: asking(7).choices?.slice(1) },
    ];
    expect(new Set([asking(7), ...others.map((part) => asking(7, part))].map(kind)).size).toBe(
      others.length + 1,
    );
  });

  it.each([
    ['berth_07_v1.2', 'berth_#_v#'],
    ['140 m', '# m'],
    ['1,024 of 10', '# of #'],
    ['none', 'none'],
  ])('%s is %s without its numbers', (text, expected) => expect(numberless(text)).toBe(expected));
});
