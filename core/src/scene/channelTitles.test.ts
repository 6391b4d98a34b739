import { describe, expect, it } from 'vitest';
import { channelInWords, channelTitle } from './channelTitles.ts';
import { CHANNELS } from './material.ts';

describe('channels as people call them', () => {
  it('have a title each, and no name of a program within a sentence', () => {
    expect(new Set(CHANNELS.map(channelTitle)).size).toBe(CHANNELS.length);
    for (const channel of CHANNELS) expect(channelInWords(channel)).toMatch(/^[a-z]+( [a-z]+)*$/);
    expect(channelInWords('baseColor')).toBe('base colour');
    expect(channelInWords('ior')).toBe('index of refraction');
  });

  it('leave what is no channel as it is called', () => {
    expect(channelInWords('unused')).toBe('unused');
    expect(channelInWords(undefined)).toBe('');
  });
});
