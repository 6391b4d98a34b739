import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { useConnection } from '@/ui/connection';
import { loadPicture } from './loadPicture.ts';

/** Pictures that were asked for, oldest first. */
const asked: { src: string; onload(): void; onerror(): Promise<void> }[] = [];
/** What the server says of a picture that did not come; null for nothing. */
let status: number | null = 404;

beforeEach(() => {
  asked.length = 0;
  status = 404;
  vi.stubGlobal('fetch', async () => {
    if (status === null) throw new TypeError('no answer');
    return { status };
  });
  vi.useFakeTimers();
  vi.stubGlobal(
    'Image',
    class {
      onload = () => {};
      onerror = async () => {};
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

it('asks for a picture again until it comes, each time after a longer pause, and tells of it meanwhile', async () => {
  const [shown, failed] = [vi.fn(), vi.fn()];
  loadPicture('/tar', { name: 'tar.png', shown, failed, wanted: () => true });
  expect([asked.length, asked[0].src, unread()]).toEqual([1, '/tar', []]);
  await asked[0].onerror();
  expect([unread(), failed.mock.calls.length]).toEqual([['tar.png'], 1]);
  vi.advanceTimersByTime(2999);
  expect(asked).toHaveLength(1);
  vi.advanceTimersByTime(1);
  await asked[1].onerror();
  vi.advanceTimersByTime(5999);
  expect([asked.length, unread()]).toEqual([2, ['tar.png']]);
  vi.advanceTimersByTime(1);
  asked[2].onload();
  expect([unread(), shown.mock.calls]).toEqual([[], [[asked[2]]]]);
});

it('asks for nothing, and tells of nothing, that nobody wants any more', async () => {
  const shown = vi.fn();
  let wanted = true;
  loadPicture('/tar', { name: 'tar.png', shown, wanted: () => wanted });
  await asked[0].onerror();
  expect(unread()).toEqual(['tar.png']);
  wanted = false;
  vi.advanceTimersByTime(60_000);
  asked[0].onload();
  expect([asked.length, unread(), shown.mock.calls]).toEqual([1, [], []]);
});

it('does not ask again for one that is there and broken, and tells nothing of the store while no server answers', async () => {
  const failed = vi.fn();
  status = null;
  loadPicture('/tar', { name: 'tar.png', shown: () => {}, failed, wanted: () => true });
  await asked[0].onerror();
  expect([unread(), failed.mock.calls.length]).toEqual([[], 1]);
  vi.advanceTimersByTime(3000);
  status = 422;
  await asked[1].onerror();
  vi.advanceTimersByTime(60_000);
  expect([asked.length, unread(), failed.mock.calls.length]).toEqual([2, [], 2]);
});
