const UNITS: [number, string][] = [
  [86_400, 'd'],
  [3600, 'h'],
  [60, 'min'],
  [1, 's'],
];

/** A stretch of time in its two largest units: 5,400 seconds are "1 h 30 min". */
export function lasted(seconds: number): string {
  let rest = Math.round(seconds);
  const words: string[] = [];
  for (const [size, unit] of UNITS) {
    const times = Math.floor(rest / size);
    rest -= times * size;
    if (times > 0) words.push(`${times} ${unit}`);
    else if (words.length > 0) break;
    if (words.length === 2) break;
  }
  return words.join(' ') || '0 s';
}
