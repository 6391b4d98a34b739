import {
  ANCHORS_2,
  ANCHORS_3_SECOND,
  ANCHORS_3_THIRD,
  BitReader,
  between,
  PARTITIONS_2,
  PARTITIONS_3,
  WEIGHTS,
} from './partitions.ts';

interface Mode {
  subsets: number;
  partitionBits: number;
  rotationBits: number;
  selectorBits: number;
  colourBits: number;
  alphaBits: number;
  /** A lowest bit per end point, or per subset. */
  ownBit: boolean;
  sharedBit: boolean;
  indexBits: number;
  secondIndexBits: number;
}

/** The eight modes of the format, in its order. */
const MODES: readonly Mode[] = [
  {
    subsets: 3,
    partitionBits: 4,
    rotationBits: 0,
    selectorBits: 0,
    colourBits: 4,
    alphaBits: 0,
    ownBit: true,
    sharedBit: false,
    indexBits: 3,
    secondIndexBits: 0,
  },
  {
    subsets: 2,
    partitionBits: 6,
    rotationBits: 0,
    selectorBits: 0,
    colourBits: 6,
    alphaBits: 0,
    ownBit: false,
    sharedBit: true,
    indexBits: 3,
    secondIndexBits: 0,
  },
  {
    subsets: 3,
    partitionBits: 6,
    rotationBits: 0,
    selectorBits: 0,
    colourBits: 5,
    alphaBits: 0,
    ownBit: false,
    sharedBit: false,
    indexBits: 2,
    secondIndexBits: 0,
  },
  {
    subsets: 2,
    partitionBits: 6,
    rotationBits: 0,
    selectorBits: 0,
    colourBits: 7,
    alphaBits: 0,
    ownBit: true,
    sharedBit: false,
    indexBits: 2,
    secondIndexBits: 0,
  },
  {
    subsets: 1,
    partitionBits: 0,
    rotationBits: 2,
    selectorBits: 1,
    colourBits: 5,
    alphaBits: 6,
    ownBit: false,
    sharedBit: false,
    indexBits: 2,
    secondIndexBits: 3,
  },
  {
    subsets: 1,
    partitionBits: 0,
    rotationBits: 2,
    selectorBits: 0,
    colourBits: 7,
    alphaBits: 8,
    ownBit: false,
    sharedBit: false,
    indexBits: 2,
    secondIndexBits: 2,
  },
  {
    subsets: 1,
    partitionBits: 0,
    rotationBits: 0,
    selectorBits: 0,
    colourBits: 7,
    alphaBits: 7,
    ownBit: true,
    sharedBit: false,
    indexBits: 4,
    secondIndexBits: 0,
  },
  {
    subsets: 2,
    partitionBits: 6,
    rotationBits: 0,
    selectorBits: 0,
    colourBits: 5,
    alphaBits: 5,
    ownBit: true,
    sharedBit: false,
    indexBits: 2,
    secondIndexBits: 0,
  },
];

/** Decodes one BC7 block into 16 pixels of r, g, b, a. A block of no mode is clear black. */
export function decodeBc7Block(body: Uint8Array, offset: number, out: Uint8Array): void {
  const number = body[offset] === 0 ? 8 : 31 - Math.clz32(body[offset] & -body[offset]);
  if (number > 7) {
    out.fill(0);
    return;
  }
  const m = MODES[number];
  const reader = new BitReader(body, offset);
  reader.bits(number + 1);
  const partition = reader.bits(m.partitionBits);
  const rotation = reader.bits(m.rotationBits);
  const selector = reader.bits(m.selectorBits);
  const ends = readEnds(reader, m);
  const subset = (pixel: number) => subsetOf(m, partition, pixel);
  const anchors = anchorsOf(m, partition);
  const first = readIndices(reader, m.indexBits, (pixel) => anchors[subset(pixel)] === pixel);
  const second =
    m.secondIndexBits > 0 ? readIndices(reader, m.secondIndexBits, (pixel) => pixel === 0) : null;
  const [colours, alphas] = indexLists(second, selector, first);
  const colourWeights = WEIGHTS[second && selector === 1 ? m.secondIndexBits : m.indexBits];
  const alphaWeights = WEIGHTS[second && selector === 0 ? m.secondIndexBits : m.indexBits];
  for (let pixel = 0; pixel < 16; pixel += 1) {
    const [a, b] = [ends[subset(pixel) * 2], ends[subset(pixel) * 2 + 1]];
    const to = pixel * 4;
    for (let k = 0; k < 3; k += 1) out[to + k] = between(a[k], b[k], colourWeights[colours[pixel]]);
    out[to + 3] = m.alphaBits > 0 ? between(a[3], b[3], alphaWeights[alphas[pixel]]) : 255;
    if (rotation > 0) {
      const alpha = out[to + 3];
      out[to + 3] = out[to + rotation - 1];
      out[to + rotation - 1] = alpha;
    }
  }
}

function subsetOf(m: Mode, partition: number, pixel: number) {
  if (m.subsets === 1) return 0;
  return m.subsets === 2
    ? (PARTITIONS_2[partition] >> pixel) & 1
    : (PARTITIONS_3[partition] >>> (pixel * 2)) & 3;
}

function anchorsOf(m: Mode, partition: number) {
  if (m.subsets === 1) return [0];
  return m.subsets === 2
    ? [0, ANCHORS_2[partition]]
    : [0, ANCHORS_3_SECOND[partition], ANCHORS_3_THIRD[partition]];
}

function indexLists(second: number[] | null, selector: number, first: number[]): [number[], number[]] {
  if (second) return selector === 1 ? [second, first] : [first, second];
  return [first, first];
}

function readEnds(reader: BitReader, m: Mode): number[][] {
  const count = m.subsets * 2;
  const ends = Array.from({ length: count }, () => [0, 0, 0, 255]);
  for (let k = 0; k < 3; k += 1) for (const end of ends) end[k] = reader.bits(m.colourBits);
  if (m.alphaBits > 0) for (const end of ends) end[3] = reader.bits(m.alphaBits);
  const low = lowBits(m, ends, reader);
  const widen = (value: number, bits: number, i: number) => {
    const whole = low ? (value << 1) | low[i] : value;
    const width = bits + (low ? 1 : 0);
    const top = whole << (8 - width);
    return top | (top >> width);
  };
  ends.forEach((end, i) => {
    for (let k = 0; k < 3; k += 1) end[k] = widen(end[k], m.colourBits, i);
    if (m.alphaBits > 0) end[3] = widen(end[3], m.alphaBits, i);
  });
  return ends;
}

function lowBits(m: Mode, ends: number[][], reader: BitReader) {
  if (m.ownBit) return ends.map(() => reader.bits(1));
  return m.sharedBit
    ? Array.from({ length: m.subsets }, () => reader.bits(1)).flatMap((bit) => [bit, bit])
    : null;
}

function readIndices(reader: BitReader, bits: number, isAnchor: (pixel: number) => boolean): number[] {
  return Array.from({ length: 16 }, (_, pixel) => reader.bits(bits - (isAnchor(pixel) ? 1 : 0)));
}
