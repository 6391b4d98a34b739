/**
 * Decodes text of unknown encoding: by its byte-order mark, else as UTF-8 when that is without fault,
 * else as UTF-16 when every other byte is zero, else as Windows-1252.
 */
export function decodeText(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    if (!text.includes('\0')) return text;
  } catch {
    // Not UTF-8: one of the encodings below.
  }
  const wide = looksWide(bytes);
  return new TextDecoder(wide ?? 'windows-1252').decode(bytes);
}

/** `utf-16le` or `utf-16be` when the first bytes alternate with zeros, else null. */
export function looksWide(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | null {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  const sample = Math.min(bytes.length & ~1, 256);
  if (sample < 8) return null;
  let even = 0;
  let odd = 0;
  for (let i = 0; i < sample; i += 2) {
    if (bytes[i] === 0) even += 1;
    if (bytes[i + 1] === 0) odd += 1;
  }
  if (odd > sample * 0.4 && even === 0) return 'utf-16le';
  if (even > sample * 0.4 && odd === 0) return 'utf-16be';
  return null;
}
