import type { Finding } from '@kinkajou/core/findings/finding';
import { describe, expect, it } from 'vitest';
import { splitForMiddle } from '@/ui/Middle';
import { docketOrder, groupsOf, shownPlaces } from './groups.ts';

const finding = (code: string, key: string, more: Partial<Finding> = {}): Finding => ({
  code,
  step: 'links',
  severity: 'error',
  key,
  title: `Title of ${code}`,
  subject: key,
  message: '',
  evidence: [],
  mend: null,
  safe: false,
  mendLabel: '',
  target: {},
  ...more,
});

const MIXED = [
  finding('link.missing', 'a'),
  finding('slot.wrong', 'b', { step: 'slots' }),
  finding('link.missing', 'c', { severity: 'warning' }),
  finding('link.case', 'd', { severity: 'note' }),
  finding('link.missing', 'e', { severity: 'note' }),
];

describe('the docket', () => {
  it('has one card per kind, as bad as its worst, in the order of the worst of each', () => {
    expect(
      groupsOf(MIXED).map(({ code, title, severity, findings }) => [
        code,
        title,
        severity,
        findings.map(({ key }) => key).join(''),
      ]),
    ).toEqual([
      ['link.missing', 'Title of link.missing', 'error', 'ace'],
      ['slot.wrong', 'Title of slot.wrong', 'error', 'b'],
      ['link.case', 'Title of link.case', 'note', 'd'],
    ]);
  });

  it('is walked through as it is shown, of one step alone where that is wanted', () => {
    expect(docketOrder(MIXED).map(({ key }) => key)).toEqual(['a', 'c', 'e', 'b', 'd']);
    expect(docketOrder(MIXED, 'slots').map(({ key }) => key)).toEqual(['b']);
    expect(docketOrder(MIXED, 'parts')).toEqual([]);
  });

  it('shows some places of a kind, the one in hand among them, and hides no single one', () => {
    const many = (count: number) => Array.from({ length: count }, (_, i) => finding('link.missing', `${i}`));
    const keys = (count: number, how: { open: boolean; focused: string | null }) =>
      shownPlaces(many(count), how).map(({ key }) => key);
    expect(keys(5, { open: false, focused: null })).toEqual(['0', '1', '2', '3', '4']);
    expect(keys(6, { open: false, focused: null })).toEqual(['0', '1', '2', '3']);
    expect(keys(500, { open: false, focused: '321' })).toEqual(['0', '1', '2', '3', '321']);
    expect(keys(500, { open: true, focused: null })).toHaveLength(500);
  });
});

describe('a long name on one line', () => {
  it('keeps its end, which is the name of its file where that is short', () => {
    expect(splitForMiddle('iron.png')).toEqual(['', 'iron.png']);
    expect(splitForMiddle('P:\\old\\textures\\harbour\\iron.png')).toEqual([
      'P:\\old\\textures\\harbour\\',
      'iron.png',
    ]);
    expect(splitForMiddle('textures/crane_boom_lower_section_basecolor.1001.png')).toEqual([
      'textures/crane_boom_lower_sectio',
      'n_basecolor.1001.png',
    ]);
  });
});
