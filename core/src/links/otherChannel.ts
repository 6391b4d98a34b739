import { classifyNames } from '../maps/classifyName.ts';
import { remember } from '../remember.ts';
import { isMark } from './nameMarks.ts';

/**
 * Judges whether two stems name different channels: `_m` beside `_d` is a sibling, and no spelling of it. Numbers
 * that only tell parts apart do not matter, so that what is known of one pair is known of all like it.
 */
export function createChannelJudge(): (first: string, second: string) => boolean {
  const judge = remember(differs);
  return (first, second) => judge(`${withoutNumbers(first)}\0${withoutNumbers(second)}`);
}

function differs(pair: string): boolean {
  const [a, b] = classifyNames(pair.split('\0'));
  if (a.readings.length === 0 || b.readings.length === 0) return false;
  return a.readings.map(({ channel }) => channel).join() !== b.readings.map(({ channel }) => channel).join();
}

/** Numbers that stand alone and are no marks become the same one. */
function withoutNumbers(stem: string): string {
  return stem.replace(/(?<![\p{L}\d])\d+(?![\p{L}\d])/gu, (number) => (isMark(number, true) ? number : '7'));
}
