import { addRemark, type Remark } from '../../scene/document.ts';
import { DecimalReader } from '../decimal.ts';
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
  /** Point, UV and normal of each corner, one after the other; -1 where the corner names none. */
  corners: IntList;
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
const HASH = 35;
const BACKSLASH = 92;
const SMALL_F = 102;
const SMALL_N = 110;
const SMALL_T = 116;
const SMALL_V = 118;

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
    corners: new IntList(3 << 16),
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
  /** Where the lines of `data` end that are read now. */
  private limit = 0;
  private readonly decimal = new DecimalReader();
  /** What {@link number} read last. */
  private value = 0;
  /** What {@link index} read last. */
  private entry = 0;
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

  /**
   * Reads whole lines. Each reader below takes the offset to begin at and gives the one that it came to: kept
   * in fields they would be written to memory at every letter.
   */
  private scan(data: Uint8Array, length: number): void {
    this.data = data;
    this.limit = length;
    let offset = 0;
    while (offset < length) {
      this.out.lines += 1;
      offset = this.nextLine(this.statement(this.skipBlanks(offset)));
    }
  }

  /** After the end of the line, past a line end that a backslash takes away. */
  private nextLine(offset: number): number {
    if (offset < this.limit && this.data[offset] === NEWLINE) return offset + 1;
    return this.lineEnd(offset) + 1;
  }

  /** Where the logical line ends: a backslash before a line end continues it. */
  private lineEnd(offset: number): number {
    const { data, limit } = this;
    let from = offset;
    for (;;) {
      const lineEnd = data.indexOf(NEWLINE, from);
      const end = lineEnd < 0 || lineEnd > limit ? limit : lineEnd;
      const last = data[end - 1] === RETURN ? end - 2 : end - 1;
      if (end === limit || last < from || data[last] !== BACKSLASH) return end;
      this.out.lines += 1;
      from = end + 1;
    }
  }

  private statement(start: number): number {
    const { data } = this;
    if (start >= this.limit) return start;
    const first = data[start];
    const second = data[start + 1];
    if (first === SMALL_V) {
      if (this.endsWord(start + 1)) return this.vertex(start + 1);
      if (second === SMALL_T && this.endsWord(start + 2)) return this.texturePoint(start + 2);
      if (second === SMALL_N && this.endsWord(start + 2)) return this.direction(start + 2);
    }
    if (first === SMALL_F && this.endsWord(start + 1)) return this.face(start + 1);
    if (first === NEWLINE) return start;
    const end = this.lineEnd(start);
    if (first !== HASH) this.keyword(start, end);
    else if (this.out.header === '' && this.out.lines < 4) this.out.header = this.text(start + 1, end);
    return end;
  }

  private keyword(start: number, end: number): void {
    let stop = start;
    while (stop < end && !this.endsWord(stop)) stop += 1;
    const word = String.fromCharCode(...this.data.subarray(start, Math.min(stop, start + 32)));
    const rest = this.text(stop, end);
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

  private vertex(start: number): number {
    const { points, pointColours, badPoints } = this.out;
    let offset = this.number(start);
    const x = this.value;
    offset = this.number(offset);
    const y = this.value;
    offset = this.number(offset);
    const z = this.value;
    if (Number.isNaN(x + y + z)) {
      points.pushThree(x || 0, y || 0, z || 0);
      badPoints.set(points.length / 3 - 1, this.out.lines);
    } else points.pushThree(x, y, z);
    offset = this.skipBlanks(offset);
    if (offset < this.limit && this.data[offset] !== NEWLINE) return this.vertexExtras(offset);
    if (pointColours.length > 0) for (let i = 0; i < 3; i += 1) pointColours.push(1);
    return offset;
  }

  /** x y z w carries a weight; x y z r g b and x y z w r g b carry a colour. */
  private vertexExtras(start: number): number {
    const { points, pointColours } = this.out;
    const extra: number[] = [];
    let offset = start;
    while (offset < this.limit && this.data[offset] !== NEWLINE && extra.length < 4) {
      offset = this.number(offset);
      extra.push(this.orZero(this.value));
      offset = this.skipBlanks(offset);
    }
    if (extra.length >= 3) {
      while (pointColours.length < points.length - 3) pointColours.push(1);
      for (const value of extra.slice(-3)) pointColours.push(value);
    } else if (pointColours.length > 0) for (let i = 0; i < 3; i += 1) pointColours.push(1);
    return offset;
  }

  private texturePoint(start: number): number {
    const { uvs } = this.out;
    let offset = this.number(start);
    uvs.push(this.orZero(this.value));
    offset = this.number(offset);
    uvs.push(this.orZero(this.value));
    return offset;
  }

  private direction(start: number): number {
    const { normals } = this.out;
    let offset = this.number(start);
    const x = this.value;
    offset = this.number(offset);
    const y = this.value;
    offset = this.number(offset);
    // A direction with a part missing is none.
    const missing = Number.isNaN(x + y + this.value);
    if (missing) normals.pushThree(0, 0, 0);
    else normals.pushThree(x, y, this.value);
    return offset;
  }

  private face(start: number): number {
    const { data, limit, out } = this;
    const firstEntry = out.corners.length;
    const points = out.points.length / 3;
    const uvs = out.uvs.length / 2;
    const normals = out.normals.length / 3;
    let faulty = false;
    let corners = 0;
    let offset = this.skipBlanks(start);
    while (offset < limit && data[offset] !== NEWLINE) {
      const before = offset;
      offset = this.index(offset, points);
      const point = this.entry;
      let uv = -1;
      let normal = -1;
      if (offset < limit && data[offset] === SLASH) {
        offset += 1;
        if (data[offset] !== SLASH) {
          offset = this.index(offset, uvs);
          uv = this.entry;
        }
        if (offset < limit && data[offset] === SLASH) {
          offset = this.index(offset + 1, normals);
          normal = this.entry;
        }
      }
      if (point < 0 || uv === BAD || normal === BAD) faulty = true;
      if (offset === before || !this.endsWord(offset)) {
        faulty = true;
        while (!this.endsWord(offset)) offset += 1;
      }
      out.corners.pushThree(point, uv, normal);
      corners += 1;
      offset = this.skipBlanks(offset);
    }
    if (faulty || corners < 3) this.leaveOut(firstEntry, faulty);
    else {
      if (out.runs.length === 0) this.openRun();
      out.faceCounts.push(corners);
    }
    return offset;
  }

  private leaveOut(firstEntry: number, faulty: boolean): void {
    const { out } = this;
    out.corners.length = firstEntry;
    addRemark(out.remarks, {
      code: faulty ? 'read.indexRange' : 'read.thinFace',
      severity: faulty ? 'error' : 'note',
      subject: 'f',
      message: faulty
        ? `faces with indices that point at nothing are left out (first on line ${out.lines})`
        : `faces with fewer than three corners are left out (first on line ${out.lines})`,
    });
  }

  /**
   * Reads one index into `entry` as an absolute one from 0; negative ones count back from the end. BAD when
   * out of range.
   */
  private index(start: number, count: number): number {
    const { data, limit } = this;
    const negative = start < limit && data[start] === MINUS;
    const first = negative ? start + 1 : start;
    let offset = first;
    let written = 0;
    for (; offset < limit; offset += 1) {
      const digit = data[offset] - 48;
      if (digit < 0 || digit > 9) break;
      written = written * 10 + digit;
    }
    const absolute = negative ? count - written : written - 1;
    this.entry = offset > first && absolute >= 0 && absolute < count ? absolute : BAD;
    return offset;
  }

  /** Reads the next number on the line into `value`; NaN when there is none. */
  private number(start: number): number {
    const { data, limit } = this;
    const first = this.skipBlanks(start);
    const end = this.decimal.read(data, first, limit);
    if (end >= 0 && this.endsWord(end)) {
      this.value = this.decimal.value;
      return end;
    }
    let offset = first;
    while (!this.endsWord(offset)) offset += 1;
    const word = String.fromCharCode(...data.subarray(first, Math.min(offset, first + 64)));
    const value = Number(word);
    this.value = word !== '' && Number.isFinite(value) ? value : Number.NaN;
    return offset;
  }

  /** The number, or 0 with a remark where there was none. */
  private orZero(value: number): number {
    if (!Number.isNaN(value)) return value;
    addRemark(this.out.remarks, {
      code: 'read.badNumber',
      severity: 'error',
      subject: 'number',
      message: `numbers that cannot be read were taken as 0 (first on line ${this.out.lines})`,
    });
    return 0;
  }

  /** Past blanks of the logical line: a backslash takes a line end away. */
  private skipBlanks(start: number): number {
    const { data, limit } = this;
    let offset = start;
    for (; offset < limit; offset += 1) {
      const code = data[offset];
      if (code === BACKSLASH) {
        const end = continuedAt(data, offset, limit);
        if (end < 0) return offset;
        this.out.lines += 1;
        offset = end;
      } else if (code !== SPACE && code !== TAB && code !== RETURN) return offset;
    }
    return offset;
  }

  private endsWord(offset: number): boolean {
    if (offset >= this.limit) return true;
    const code = this.data[offset];
    return isBlank(code) || (code === BACKSLASH && continuedAt(this.data, offset, this.limit) >= 0);
  }

  /** Text of a logical line, its continued line ends as blanks. */
  private text(start: number, end: number): string {
    return decodeText(this.data.subarray(start, end))
      .replace(/\\\r?\n/g, '  ')
      .trim();
  }
}

/** Offset of the line end that a backslash takes away; -1 when the backslash is one of a name. */
function continuedAt(data: Uint8Array, backslash: number, limit: number): number {
  const end = data[backslash + 1] === RETURN ? backslash + 2 : backslash + 1;
  return end < limit && data[end] === NEWLINE ? end : -1;
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
