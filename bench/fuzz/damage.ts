/** Random numbers in 0..1 that come again for the same seed. */
export function generator(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

type Random = () => number;
const below = (random: Random, count: number) => Math.floor(random() * count);
/** Numbers that readers stumble over. */
const EDGES = [0, 1, 127, 128, 255, 256, 65_535, 0x7fffffff, 0x80000000, 0xfffffffe, 0xffffffff];
const WORDS = [
  '-1',
  '0',
  '1e999',
  'NaN',
  '-nan',
  '99999999999999999999',
  '',
  '"',
  '{',
  '}',
  '(',
  ')',
  '[',
  ']',
  '@',
  '<',
  '__proto__',
  'constructor',
  '\u0000',
  'null',
];

/** The bytes broken in one to four ways, as disks, cables, editors and careless exporters break them. */
export function damage(bytes: Uint8Array, random: Random): Uint8Array {
  const isText = !bytes.subarray(0, 2000).some((code) => code === 0);
  let out: Uint8Array = bytes.slice();
  for (let times = 1 + below(random, 4); times > 0; times -= 1) {
    const ways = isText ? [...BINARY, ...TEXT, ...TEXT] : BINARY;
    out = ways[below(random, ways.length)](out, random);
  }
  return out;
}

type Way = (bytes: Uint8Array, random: Random) => Uint8Array;

/** Places in the first tenth are as likely as all others, since headers steer the rest. */
function placeIn({ length }: Uint8Array, random: Random): number {
  return below(random, random() < 0.5 ? Math.max(1, Math.floor(length / 10)) : Math.max(1, length));
}

const BINARY: Way[] = [
  (bytes, random) => bytes.slice(0, below(random, bytes.length + 1)),
  (bytes, random) => {
    for (let k = 1 + below(random, 8); k > 0; k -= 1) bytes[placeIn(bytes, random)] = below(random, 256);
    return bytes;
  },
  (bytes, random) => {
    bytes[placeIn(bytes, random)] ^= 1 << below(random, 8);
    return bytes;
  },
  (bytes, random) => {
    if (bytes.length < 8) return bytes;
    const offset = Math.min(bytes.length - 4, placeIn(bytes, random) & ~3);
    new DataView(bytes.buffer, bytes.byteOffset).setUint32(
      offset,
      EDGES[below(random, EDGES.length)],
      random() < 0.7,
    );
    return bytes;
  },
  (bytes, random) => {
    const start = placeIn(bytes, random);
    return bytes.fill(random() < 0.5 ? 0 : 255, start, start + below(random, 512));
  },
  (bytes, random) => {
    const [start, length] = [placeIn(bytes, random), below(random, 400)];
    const piece = bytes.slice(start, start + length);
    return joined(bytes.subarray(0, start), piece, bytes.subarray(start));
  },
  (bytes, random) => {
    const start = placeIn(bytes, random);
    return joined(
      bytes.subarray(0, start),
      bytes.subarray(Math.min(bytes.length, start + below(random, 400))),
    );
  },
];

const TEXT: Way[] = [
  (bytes, random) =>
    inLines(bytes, (lines) => {
      const line = below(random, lines.length);
      const words = lines[line].split(/(\s+|,)/);
      words[below(random, words.length)] = WORDS[below(random, WORDS.length)];
      lines[line] = words.join('');
    }),
  (bytes, random) =>
    inLines(bytes, (lines) => void lines.splice(below(random, lines.length), 1 + below(random, 3))),
  (bytes, random) =>
    inLines(bytes, (lines) => {
      const line = below(random, lines.length);
      lines.splice(below(random, lines.length), 0, ...lines.slice(line, line + 1 + below(random, 20)));
    }),
  (bytes, random) =>
    inLines(bytes, (lines) => {
      const [a, b] = [below(random, lines.length), below(random, lines.length)];
      [lines[a], lines[b]] = [lines[b], lines[a]];
    }),
  (bytes, random) =>
    inLines(bytes, (lines) => {
      const line = below(random, lines.length);
      lines[line] = lines[line].replace(/-?\d+(\.\d+)?/, () =>
        String(EDGES[below(random, EDGES.length)] * (random() < 0.3 ? -1 : 1)),
      );
    }),
];

function inLines(bytes: Uint8Array, change: (lines: string[]) => void): Uint8Array {
  const lines = Buffer.from(bytes).toString('latin1').split('\n');
  change(lines);
  return new Uint8Array(Buffer.from(lines.join('\n'), 'latin1'));
}

const joined = (...pieces: Uint8Array[]) => new Uint8Array(Buffer.concat(pieces));
