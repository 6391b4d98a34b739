import type { Edit } from '@kinkajou/core/asset/asset';
import { testMaterial } from '@kinkajou/core/test/assets';
import { describe, expect, it } from 'vitest';
import { type BenchData, benchDelta, type LoggedEdit, viewOf } from '@/server/wire/bench';
import { received, withPending } from './pending.ts';

const origin = { from: 'hand', detail: '' } as const;
const rough = (value: number): Edit => ({
  kind: 'setValues',
  slots: [{ material: 'Hull', channel: 'roughness' }],
  value,
  origin,
});
const logged = (seq: number, value: number): LoggedEdit => ({
  seq,
  act: seq,
  edit: rough(value),
  at: '2026-01-01T00:00:00.000Z',
  author: '',
});

function data(more: Partial<BenchData> = {}): BenchData {
  return {
    id: 'a',
    version: '4.0',
    revision: 4,
    log: [logged(1, 0.1), logged(2, 0.2)],
    cursor: 2,
    source: { materials: [testMaterial('Hull')], images: [] } as unknown as BenchData['source'],
    images: [],
    findings: [],
    candidates: {},
    further: [],
    detected: [],
    sidecars: [],
    deliveries: [],
    ...more,
  } as BenchData;
}

const roughnessOf = (from: BenchData) => viewOf(from).state.materials[0].channels.roughness?.value;

describe('what is on its way', () => {
  it('shows at once: edits, undo and redo, one on the other', () => {
    expect(roughnessOf(withPending(data(), []))).toBe(0.2);
    expect(roughnessOf(withPending(data(), [{ edits: [rough(0.3), rough(0.4)] }]))).toBe(0.4);
    expect(
      roughnessOf(withPending(data(), [{ edits: [rough(0.3), rough(0.4)] }, { move: { by: -1 } }])),
    ).toBe(0.2);
    expect(roughnessOf(withPending(data(), [{ move: { by: -1 } }]))).toBe(0.1);
    expect(roughnessOf(withPending(data(), [{ move: { by: -1 } }, { move: { by: 1 } }]))).toBe(0.2);
    expect(roughnessOf(withPending(data(), [{ answer: true }]))).toBe(0.2);
  });

  it('takes the place of what was undone', () => {
    const after = withPending(data(), [{ move: { to: 0 } }, { edits: [rough(0.9)] }]);
    expect(after.log.map(({ seq, act }) => [seq, act])).toEqual([[1, 1]]);
    expect(roughnessOf(after)).toBe(0.9);
    // What was given is as it was.
    expect(data().log).toHaveLength(2);
  });
});

describe('an answer', () => {
  const next = data({
    version: '5.0',
    revision: 5,
    log: [logged(1, 0.1), logged(2, 0.2), logged(3, 0.7)],
    cursor: 3,
  });

  it('is put on what it was told from, with the edits that were sent', () => {
    const delta = structuredClone(benchDelta(data(), next));
    expect(delta.fields).toEqual({ version: '5.0', revision: 5, cursor: 3 });
    for (const { item } of delta.lists.log?.put ?? []) Object.assign(item, { edit: null });
    expect(received(data(), { delta, seq: 3 }, [rough(0.7)])).toEqual(next);
  });

  it('from another version is no use, and an older whole is not taken', () => {
    const delta = benchDelta(data(), next);
    expect(received(data({ version: '3.0' }), { delta })).toBeNull();
    expect(received(undefined, { delta })).toBeNull();
    expect(received(undefined, { whole: next })).toBe(next);
    expect(received(next, { whole: data() })).toBe(next);
  });
});
