import { addRemark, type Remark } from '../../scene/document.ts';
import { FloatList, IntList } from '../growable.ts';
import { decodeText } from '../text.ts';

/** A run of faces that share object, group, material and smoothing. */
export interface ObjRun {
  object: string;
  group: string;
  material: string;
  smoothing: number;
  firstFace: number;
}

/** An OBJ file as written: shared value lists, faces with absolute indices, and runs of equal state. */
export interface ScannedObj {
  points: FloatList;
  /** r, g, b per point; filled with white for points written without; empty when none has a colour. */
  pointColours: FloatList;
  uvs: FloatList;
  normals: FloatList;
  faceCounts: IntList;
  cornerPoints: IntList;
  /** -1 where the corner names none. */
  cornerUvs: IntList;
  cornerNormals: IntList;
  runs: ObjRun[];
  /** Names of all objects, those without faces too. */
  objects: Set<string>;
  /** Points with a coordinate that is no number, and the line of each. */
  badPoints: Map<number, number>;
  libraries: string[];
  header: string;
  lines: number;
  remarks: Remark[];
}

const NEWLINE = 10;
const RETURN = 13;
const SPACE = 32;
const TAB = 9;
const SLASH = 47;
const MINUS = 45;
const PLUS = 43;
const DOT = 46;
const BACKSLASH = 92;
const POWERS = Float64Array.from({ length: 23 }, (_, i) => 10 ** i);
const EXACT_LIMIT = 2 ** 53;

/**
 * Reads OBJ statements from bytes fed in pieces of any size, so that a file need not be held whole.
 * Faces with indices out of range or fewer than three corners are left out and counted in the remarks.
 */
export class ObjScanner {
  readonly out: ScannedObj = {
    points: new FloatList(1 << 16),
    pointColours: new FloatList(16),
    uvs: new FloatList(1 << 16),
    normals: new FloatList(1 << 16),
    faceCounts: new IntList(1 << 16),
    cornerPoints: new IntList(1 << 16),
    cornerUvs: new IntList(1 << 16),
    cornerNormals: new IntList(1 << 16),
    runs: [],
    objects: new Set(),
    badPoints: new Map(),
    libraries: [],
    header: '',
    lines: 0,
    remarks: [],
  };

  private carry: Uint8Array = new Uint8Array(0);
  private data: Uint8Array = this.carry;
  private at = 0;
  private end = 0;
  private owned: Uint8Array | null = null;
  private state = { object: '', group: '', material: '', smoothing: 0 };

  /** Takes the next piece; a line cut at its end waits for the following piece. */
  feed(piece: Uint8Array): void {
    let data = piece;
    if (this.carry.length > 0) {
      data = new Uint8Array(this.carry.length + piece.length);
      data.set(this.carry);
      data.set(piece, this.carry.length);
    }
    const whole = lastLineEnd(data);
    this.scan(data, whole);
    this.carry = new Uint8Array(data.subarray(whole));
  }

  finish(): ScannedObj {
    this.scan(this.carry, this.carry.length);
    this.carry = new Uint8Array(0);
    return this.out;
  }

  private scan(data: Uint8Array, length: number): void {
    this.data = data;
    this.at = 0;
    while (this.at < length) {
      this.end = this.findLineEnd(length);
      this.out.lines += 1;
      this.statement();
      this.at = this.end + 1;
    }
  }

  /** End of the logical line; a backslash before the line end continues it and is blanked out. */
  private findLineEnd(length: number): number {
    let from = this.at;
    for (;;) {
      const lineEnd = this.data.indexOf(NEWLINE, from);
      const end = lineEnd < 0 || lineEnd > length ? length : lineEnd;
      let last = end - 1;
      if (this.data[last] === RETURN) last -= 1;
      if (end < length && last >= from && this.data[last] === BACKSLASH) {
        this.ownData();
        this.data.fill(SPACE, last, end + 1);
        this.out.lines += 1;
        from = end + 1;
        continue;
      }
      return end;
    }
  }

  /** Continuations are rewritten in place, so the caller's bytes are copied before the first one. */
  private ownData(): void {
    if (this.owned === this.data) return;
    this.data = new Uint8Array(this.data);
    this.owned = this.data;
  }

  private statement(): void {
    const { data } = this;
    this.skipBlanks();
    const first = data[this.at];
    const second = data[this.at + 1];
    if (this.at >= this.end) return;
    if (first === 118) {
      if (isBlank(second)) return this.vertex();
      if (second === 116 && isBlank(data[this.at + 2])) return this.values(3, this.out.uvs, 2);
      if (second === 110 && isBlank(data[this.at + 2])) return this.values(3, this.out.normals, 3);
    }
    if (first === 102 && isBlank(second)) return this.face();
    if (first === 35) {
      if (this.out.header === '' && this.out.lines < 4) this.out.header = this.text(this.at + 1);
      return;
    }
    this.keyword();
  }

  private keyword(): void {
    let stop = this.at;
    while (stop < this.end && !isBlank(this.data[stop])) stop += 1;
    const word = String.fromCharCode(...this.data.subarray(this.at, Math.min(stop, this.at + 32)));
    const rest = this.text(stop);
    switch (word) {
      case 'o':
        this.out.objects.add(rest || 'object');
        return this.change({ object: rest || 'object' });
      case 'g':
        return this.change({ group: rest || 'default' });
      case 's':
        return this.change({ smoothing: rest === 'off' || rest === '' ? 0 : Number.parseInt(rest, 10) || 0 });
      case 'usemtl':
        return this.change({ material: rest });
      case 'mtllib':
        this.out.libraries.push(rest);
        return;
      default:
        addRemark(this.out.remarks, {
          code: KNOWN_UNCARRIED.has(word) ? 'read.notCarried' : 'read.unknownStatement',
          severity: 'note',
          subject: word,
          message:
            KNOWN_UNCARRIED.get(word) ??
            `statement "${word}" is not understood (first on line ${this.out.lines})`,
        });
    }
  }

  private change(part: Partial<typeof this.state>): void {
    this.state = { ...this.state, ...part };
    this.openRun();
  }

  private openRun(): void {
    const { runs, faceCounts } = this.out;
    if (runs.at(-1)?.firstFace === faceCounts.length) runs.pop();
    runs.push({ ...this.state, firstFace: faceCounts.length });
  }

  private vertex(): void {
    this.at += 1;
    const { points, pointColours } = this.out;
    let bad = false;
    for (let i = 0; i < 3; i += 1) {
      const value = this.number();
      if (Number.isNaN(value)) bad = true;
      points.push(Number.isNaN(value) ? 0 : value);
    }
    if (bad) this.out.badPoints.set(points.length / 3 - 1, this.out.lines);
    this.skipBlanks();
    if (this.at >= this.end) {
      if (pointColours.length > 0) for (let i = 0; i < 3; i += 1) pointColours.push(1);
      return;
    }
    const extra: number[] = [];
    while (this.at < this.end && extra.length < 4) {
      extra.push(this.told(this.number()));
      this.skipBlanks();
    }
    // x y z w carries a weight; x y z r g b and x y z w r g b carry a colour.
    if (extra.length >= 3) {
      while (pointColours.length < points.length - 3) pointColours.push(1);
      for (const value of extra.slice(-3)) pointColours.push(value);
    } else if (pointColours.length > 0) for (let i = 0; i < 3; i += 1) pointColours.push(1);
  }

  private values(skip: number, list: FloatList, size: number): void {
    this.at += skip;
    if (size === 2) {
      for (let i = 0; i < size; i += 1) list.push(this.told(this.number()));
      return;
    }
    const direction = [this.number(), this.number(), this.number()];
    // A direction with a part missing is none.
    for (const value of direction) list.push(direction.some(Number.isNaN) ? 0 : value);
  }

  private face(): void {
    this.at += 1;
    const { out } = this;
    const start = out.cornerPoints.length;
    let faulty = false;
    let corners = 0;
    for (;;) {
      this.skipBlanks();
      if (this.at >= this.end) break;
      const before = this.at;
      const point = this.index(out.points.length / 3);
      let uv = -1;
      let normal = -1;
      if (this.data[this.at] === SLASH && this.at < this.end) {
        this.at += 1;
        if (this.data[this.at] !== SLASH) uv = this.index(out.uvs.length / 2);
        if (this.data[this.at] === SLASH && this.at < this.end) {
          this.at += 1;
          normal = this.index(out.normals.length / 3);
        }
      }
      if (point < 0 || uv === BAD || normal === BAD) faulty = true;
      if (this.at === before || !(this.at >= this.end || isBlank(this.data[this.at]))) {
        faulty = true;
        while (this.at < this.end && !isBlank(this.data[this.at])) this.at += 1;
      }
      out.cornerPoints.push(point);
      out.cornerUvs.push(uv);
      out.cornerNormals.push(normal);
      corners += 1;
    }
    if (faulty || corners < 3) {
      out.cornerPoints.length = start;
      out.cornerUvs.length = start;
      out.cornerNormals.length = start;
      addRemark(out.remarks, {
        code: faulty ? 'read.indexRange' : 'read.thinFace',
        severity: faulty ? 'error' : 'note',
        subject: 'f',
        message: faulty
          ? `faces with indices that point at nothing are left out (first on line ${out.lines})`
          : `faces with fewer than three corners are left out (first on line ${out.lines})`,
      });
      return;
    }
    if (out.runs.length === 0) this.openRun();
    out.faceCounts.push(corners);
  }

  /** One index as an absolute one from 0; negative ones count back from the end. BAD when out of range. */
  private index(count: number): number {
    let sign = 1;
    if (this.data[this.at] === MINUS) {
      sign = -1;
      this.at += 1;
    }
    let value = 0;
    const before = this.at;
    while (this.at < this.end) {
      const digit = this.data[this.at] - 48;
      if (digit < 0 || digit > 9) break;
      value = value * 10 + digit;
      this.at += 1;
    }
    if (before === this.at) return BAD;
    const absolute = sign > 0 ? value - 1 : count - value;
    return absolute >= 0 && absolute < count ? absolute : BAD;
  }

  /**
   * The next number on the line; NaN when there is none. Plain decimals take the fast path, which is exact up
   * to 2^53.
   */
  private number(): number {
    this.skipBlanks();
    const { data, end } = this;
    const start = this.at;
    let offset = start;
    let negative = false;
    if (data[offset] === MINUS || data[offset] === PLUS) {
      negative = data[offset] === MINUS;
      offset += 1;
    }
    let mantissa = 0;
    let decimals = 0;
    let digits = 0;
    for (; offset < end; offset += 1) {
      const digit = data[offset] - 48;
      if (digit < 0 || digit > 9) break;
      mantissa = mantissa * 10 + digit;
      digits += 1;
    }
    if (data[offset] === DOT && offset < end) {
      offset += 1;
      for (; offset < end; offset += 1) {
        const digit = data[offset] - 48;
        if (digit < 0 || digit > 9) break;
        mantissa = mantissa * 10 + digit;
        decimals += 1;
        digits += 1;
      }
    }
    const plain = offset >= end || isBlank(data[offset]);
    if (plain && digits > 0 && mantissa < EXACT_LIMIT && decimals < POWERS.length) {
      this.at = offset;
      const value = mantissa / POWERS[decimals];
      return negative ? -value : value;
    }
    while (offset < end && !isBlank(data[offset])) offset += 1;
    this.at = offset;
    if (offset === start) return Number.NaN;
    const value = Number(String.fromCharCode(...data.subarray(start, Math.min(offset, start + 64))));
    return Number.isFinite(value) ? value : Number.NaN;
  }

  /** The number, or 0 with a remark where there was none. */
  private told(value: number): number {
    if (!Number.isNaN(value)) return value;
    addRemark(this.out.remarks, {
      code: 'read.badNumber',
      severity: 'error',
      subject: 'number',
      message: `numbers that cannot be read were taken as 0 (first on line ${this.out.lines})`,
    });
    return 0;
  }

  private skipBlanks(): void {
    while (this.at < this.end && isBlank(this.data[this.at])) this.at += 1;
  }

  private text(from: number): string {
    return decodeText(this.data.subarray(from, this.end)).trim();
  }
}

const BAD = -2;

const KNOWN_UNCARRIED = new Map([
  ['l', 'lines are not carried'],
  ['p', 'points as elements are not carried'],
  ['vp', 'free-form curve parameters are not carried'],
  ['curv', 'free-form curves are not carried'],
  ['surf', 'free-form surfaces are not carried'],
]);

function isBlank(code: number): boolean {
  return code === SPACE || code === TAB || code === RETURN || code === NEWLINE;
}

/** Position after the last line end that does not continue its line; 0 when there is none. */
function lastLineEnd(data: Uint8Array): number {
  let index = data.lastIndexOf(NEWLINE);
  while (index >= 0) {
    const before = data[index - 1] === RETURN ? index - 2 : index - 1;
    if (data[before] !== BACKSLASH) return index + 1;
    index = index > 0 ? data.lastIndexOf(NEWLINE, index - 1) : -1;
  }
  return 0;
}
