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
});
