import { describe, expect, it } from 'vitest';
import { decodeText, looksWide } from './text.ts';

const LINE = 'newmtl Küste\nmap_Kd boje.png\n';

describe('text of unknown encoding', () => {
  it.each([
    ['UTF-8', Buffer.from(LINE)],
    ['UTF-8 with a mark', Buffer.from(`\uFEFF${LINE}`)],
    ['Windows-1252', Buffer.from(LINE, 'latin1')],
    ['UTF-16 with a mark', Buffer.from(`\uFEFF${LINE}`, 'utf16le')],
    ['UTF-16 without one', Buffer.from(LINE, 'utf16le')],
    ['big-endian UTF-16', Buffer.from(LINE, 'utf16le').swap16()],
    ['big-endian UTF-16 with a mark', Buffer.from(`\uFEFF${LINE}`, 'utf16le').swap16()],
  ])('%s', (_, bytes) => expect(decodeText(new Uint8Array(bytes)).replace('\uFEFF', '')).toBe(LINE));

  it('does not take plain text for a wide one', () => {
    expect(looksWide(new Uint8Array(Buffer.from(LINE)))).toBeNull();
    expect(looksWide(Uint8Array.of(0x41, 0))).toBeNull();
  });

  const alternating = (zeros: number, length: number, first: number) =>
    Uint8Array.from({ length }, (_, i) => (i % 2 === first && i < zeros * 2 ? 0 : 65));

  it.each([
    // From eight bytes on; more than four of five of the second bytes must be zero.
    [8, 4, 1, 'utf-16le'],
    [8, 4, 0, 'utf-16be'],
    [6, 3, 1, null],
    [20, 9, 1, 'utf-16le'],
    [20, 8, 1, null],
    [20, 9, 0, 'utf-16be'],
    [20, 8, 0, null],
    // Only the first 256 bytes are looked at.
    [600, 128, 1, 'utf-16le'],
    [600, 102, 1, null],
    // An odd byte at the end is left alone.
    [9, 4, 1, 'utf-16le'],
  ])('%i bytes with %i zeros from byte %i on are %s', (length, zeros, first, expected) => {
    expect(looksWide(alternating(zeros, length, first))).toBe(expected);
  });

  it('are not wide where both bytes may be zero, and by their mark alone where they have one', () => {
    expect(looksWide(new Uint8Array(16))).toBeNull();
    expect(looksWide(Uint8Array.of(0xff, 0xfe))).toBe('utf-16le');
    expect(looksWide(Uint8Array.of(0xfe, 0xff))).toBe('utf-16be');
    expect(looksWide(Uint8Array.of(0xff, 0xff))).toBeNull();
    expect(looksWide(Uint8Array.of(0xfe, 0xfe))).toBeNull();
  });
});
