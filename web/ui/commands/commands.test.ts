import { afterEach, expect, test, vi } from 'vitest';
import { STEPS } from '@/features/bench/steps';
import { addLayer, dispatch, type Handlers, handlerOf, offered } from './registry.ts';
import { COMMAND_IDS, type CommandId, capsOf, labelOf, PLACES, wordsOf } from './table.ts';

const ends: (() => void)[] = [];
afterEach(() => {
  for (const end of ends.splice(0)) end();
});

function show(handlers: Handlers): { current: Handlers } {
  const layer = { current: handlers };
  ends.push(addLayer(layer));
  return layer;
}

const key = (init: Partial<KeyboardEvent> = {}) => init as KeyboardEvent;
const keysOf = (ids: readonly CommandId[]) => ids.flatMap((id) => wordsOf(id).keys);
const inPlaces = (...places: (keyof typeof PLACES)[]) =>
  COMMAND_IDS.filter((id) => places.includes(wordsOf(id).place));

test.each([['board'], ['links'], ['compare']] as const)(
  'no key means two things at once beside %s',
  (place) => {
    const keys = keysOf(inPlaces('everywhere', 'bench', 'view', 'list', place));
    expect(keys.filter((press, i) => keys.indexOf(press) !== i)).toEqual([]);
  },
);

test('no key of the shelf is taken everywhere', () => {
  const keys = keysOf(inPlaces('everywhere', 'shelf'));
  expect(new Set(keys).size).toBe(keys.length);
});

test('every command has words of its own and a place that lists know', () => {
  const titles = COMMAND_IDS.map((id) => wordsOf(id).title);
  expect(new Set(titles).size).toBe(titles.length);
  for (const id of COMMAND_IDS) expect(PLACES).toHaveProperty(wordsOf(id).place);
});

test('the keys 1 to 8 follow the route of steps', () => {
  expect(STEPS.map(({ id }) => wordsOf(`step.${id}`).keys[0])).toEqual([
    '1',
    '2',
    '3',
    '4',
    '5',
    '6',
    '7',
    '8',
  ]);
});

test('key presses are named as they are printed on keycaps', () => {
  expect(capsOf('mod+shift+z')).toEqual(['Ctrl', 'Shift', 'Z']);
  expect(capsOf('down')).toEqual(['↓']);
  expect(labelOf('wireframe')).toBe('Wireframe (W)');
  expect(labelOf('redo')).toBe('Redo (Ctrl+Shift+Z)');
  expect(labelOf('viewSize', 'View full')).toBe('View full (V)');
  expect(labelOf('templates')).toBe('Slot templates');
});

test('a key runs what is bound to it while the part of the page is shown', () => {
  const undo = vi.fn();
  const layer = show({ undo });
  const event = key();
  expect(dispatch('mod+z', event)).toBe(true);
  expect(undo).toHaveBeenCalledExactlyOnceWith(event);
  expect(dispatch('mod+y', event)).toBe(false);
  layer.current = { undo: null };
  expect(dispatch('mod+z', event)).toBe(false);
  expect(undo).toHaveBeenCalledTimes(1);
});

test('a command that found nothing to do leaves the key to the browser', () => {
  show({ copy: () => false });
  expect(dispatch('mod+c', key())).toBe(false);
});

test('one key has different meanings on different steps', () => {
  const [pick, link] = [vi.fn(), vi.fn()];
  show({ pick });
  dispatch('enter', key());
  ends.pop()?.();
  show({ link });
  dispatch('enter', key());
  expect([pick, link].map((run) => run.mock.calls.length)).toEqual([1, 1]);
});

test('the part of the page that was shown last takes a command first', () => {
  const [below, above] = [vi.fn(), vi.fn()];
  show({ search: below });
  show({ search: above });
  handlerOf('search')?.();
  expect([below, above].map((run) => run.mock.calls.length)).toEqual([0, 1]);
  ends.pop()?.();
  handlerOf('search')?.();
  expect(below).toHaveBeenCalledTimes(1);
});

test('the list offers what can be done now, and nothing that needs its key', () => {
  show({ undo: () => {}, redo: null, move: () => {}, theme: () => {} });
  expect(offered()).toEqual(['undo', 'theme']);
});
