import { difference } from '@kinkajou/core/compare/difference';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import { describe, expect, it } from 'vitest';
import { tellReceipt } from './handoff.ts';

function receipt(more: Partial<Receipt>): Receipt {
  return {
    verdict: 'failed',
    outputs: [{ path: 'crate.fbx', bytes: 1, sha256: '' }],
    losses: [],
    openFindings: [],
    differences: [],
    readBack: { checks: [] },
    ...more,
  } as unknown as Receipt;
}

function told(more: Partial<Receipt>): string[] {
  const lines: string[] = [];
  tellReceipt('out', receipt(more), { text: (line: string) => void lines.push(line) });
  return lines;
}

describe('a receipt in lines', () => {
  it('names verdict and files, losses, failed checks and what is left', () => {
    const check = (ok: boolean) => ({ check: 'triangles', ok, expected: '12', found: '10' });
    expect(
      told({
        losses: ['Oak: the map of coat has no place'],
        readBack: { checks: [check(true), check(false)] } as Receipt['readBack'],
        openFindings: [
          { severity: 'warning', code: 'slot.pixels', subject: 'Oak', message: 'it looks like a normal' },
        ],
      }),
    ).toEqual([
      'out: failed, crate.fbx',
      '  Oak: the map of coat has no place',
      '  failed: triangles: expected 12, found 10',
      '  left: warning slot.pixels it looks like a normal',
    ]);
  });

  it('has one line for each difference that no loss explains', () => {
    const differences = [
      difference('channel.differs', 'Oak: normal differs by up to 0.3', {
        material: 'Oak',
        channel: 'normal',
      }),
      difference('part.moved', 'Lid stands elsewhere', { part: 'Lid' }),
      {
        ...difference('channel.missing', 'Oak: coat is not there', { material: 'Oak', channel: 'coat' }),
        exempt: 'map.noPlace' as const,
      },
    ];
    expect(told({ verdict: 'failed', differences })).toEqual([
      'out: failed, crate.fbx',
      '  channel.differs: Oak: normal differs by up to 0.3',
      '  part.moved: Lid stands elsewhere',
    ]);
    expect(told({ verdict: 'clean' })).toEqual(['out: clean, crate.fbx']);
  });
});
