import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { useConnection } from '@/ui/connection';
import { loadPicture } from './loadPicture.ts';

/** Pictures that were asked for, oldest first. */
const asked: { src: string; onload(): void; onerror(): void }[] = [];

beforeEach(() => {
  asked.length = 0;
  vi.useFakeTimers();
  vi.stubGlobal(
    'Image',
    class {
      onload = () => {};
      onerror = () => {};
      src = '';
      constructor() {
        asked.push(this);
      }
    },
  );
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const unread = () => useConnection.getState().unread;

it('asks for a picture again until it comes, each time after a longer pause, and tells of it meanwhile', () => {
  const [shown, failed] = [vi.fn(), vi.fn()];
  loadPicture('/tar', { name: 'tar.png', shown, failed, wanted: () => true });
  expect([asked.length, asked[0].src, unread()]).toEqual([1, '/tar', []]);
  asked[0].onerror();
  expect([unread(), failed.mock.calls.length]).toEqual([['tar.png'], 1]);
  vi.advanceTimersByTime(2999);
  expect(asked).toHaveLength(1);
  vi.advanceTimersByTime(1);
  asked[1].onerror();
  vi.advanceTimersByTime(5999);
  expect([asked.length, unread()]).toEqual([2, ['tar.png']]);
  vi.advanceTimersByTime(1);
  asked[2].onload();
  expect([unread(), shown.mock.calls]).toEqual([[], [[asked[2]]]]);
});

it('asks for nothing, and tells of nothing, that nobody wants any more', () => {
  const shown = vi.fn();
  let wanted = true;
  loadPicture('/tar', { name: 'tar.png', shown, wanted: () => wanted });
  asked[0].onerror();
  expect(unread()).toEqual(['tar.png']);
  wanted = false;
  vi.advanceTimersByTime(60_000);
  asked[0].onload();
  expect([asked.length, unread(), shown.mock.calls]).toEqual([1, [], []]);
});
