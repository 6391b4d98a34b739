const MINUS = 45;
const PLUS = 43;
const DOT = 46;
const SMALL_E = 101;
const LARGE_E = 69;
/** Powers of ten that a double holds exactly. */
const POWERS = Float64Array.from({ length: 23 }, (_, i) => Number(`1e${i}`));
const MOST_POWER = POWERS.length - 1;
/** Digits of a half; both halves of a number are whole numbers below 2^30. */
const HALF_DIGITS = 9;
/** From here on a half has all its digits. */
const FULL_HALF = 100_000_000;
const EXACT_LIMIT = 2 ** 53;
/** Splits a double into two of 26 bits (Veltkamp). */
const SPLITTER = 2 ** 27 + 1;
/**
 * Of the quotient: eight times what the remainder can be wrong by, which is rounded four times by 2^-104 at
 * most each.
 */
const DOUBT = 2 ** -99;

/**
 * Reads decimal numbers out of bytes without making texts of them, each to the nearest double as `Number`
 * does. What has more than 18 digits, a power beyond 10^22 or another spelling (`nan`, `1.#INF`) is left to
 * the caller.
 */
export class DecimalReader {
  /** The number that was read last. */
  value = 0;
  /** Whether it was written with a point or an exponent. */
  fractional = false;

  /** Reads the number that begins at `start`; gives the offset after it, or -1 when it is none of ours. */
  read(bytes: Uint8Array, start: number, limit: number): number {
    let offset = start;
    const sign = offset < limit ? bytes[offset] : 0;
    if (sign === MINUS || sign === PLUS) offset += 1;
    const first = offset;
    // Leading zeros take no place in the halves.
    let head = 0;
    let tail = 0;
    let tailDigits = 0;
    let point = -1;
    for (; offset < limit; offset += 1) {
      const digit = bytes[offset] - 48;
      if (digit >= 0 && digit <= 9) {
        if (head < FULL_HALF) head = (head * 10 + digit) | 0;
        else if (tailDigits < HALF_DIGITS) {
          tail = (tail * 10 + digit) | 0;
          tailDigits += 1;
        } else return -1;
      } else if (digit === DOT - 48 && point < 0) point = offset + 1;
      else break;
    }
    if (offset === (point < 0 ? first : first + 1)) return -1;
    let decimals = point < 0 ? 0 : offset - point;
    this.fractional = point >= 0;
    if (offset < limit && (bytes[offset] === SMALL_E || bytes[offset] === LARGE_E)) {
      offset = this.exponent(bytes, offset + 1, limit);
      if (offset < 0) return -1;
      decimals -= this.power;
      this.fractional = true;
    }
    const plain = tailDigits === 0 && decimals >= 0 && decimals <= MOST_POWER;
    const size = plain ? head / POWERS[decimals] : scaled(head, tail, POWERS[tailDigits], decimals);
    if (size < 0) return -1;
    this.value = sign === MINUS ? -size : size;
    return offset;
  }

  private power = 0;

  /** Reads the exponent into `power`; gives the offset after it, or -1 when there is none. */
  private exponent(bytes: Uint8Array, start: number, limit: number): number {
    let offset = start;
    const sign = bytes[offset];
    if (offset < limit && (sign === MINUS || sign === PLUS)) offset += 1;
    const first = offset;
    let power = 0;
    for (; offset < limit; offset += 1) {
      const digit = bytes[offset] - 48;
      if (digit < 0 || digit > 9 || power > 1000) break;
      power = power * 10 + digit;
    }
    this.power = sign === MINUS ? -power : power;
    return offset === first ? -1 : offset;
  }
}

/**
 * (head * tailPower + tail) / 10^decimals to the nearest double; -1 when that cannot be told from here.
 * Numbers up to 2^53 and powers up to 10^22 are exact, so one operation on them is. Longer ones are divided
 * with twice the digits: the quotient's rest is known to DOUBT, and where that could turn the rounding the
 * number is not told.
 */
function scaled(head: number, tail: number, tailPower: number, decimals: number): number {
  const whole = head * tailPower + tail;
  if (whole === 0) return 0;
  if (decimals > MOST_POWER || decimals < -MOST_POWER) return -1;
  if (whole < EXACT_LIMIT) return decimals < 0 ? whole * POWERS[-decimals] : whole / POWERS[decimals];
  if (decimals < 0) return -1;
  const power = POWERS[decimals];
  const product = head * tailPower;
  const high = product + tail;
  const low = tail - (high - product) + productError(head, tailPower, product);
  const quotient = high / power;
  const back = quotient * power;
  const rest = (high - back - productError(quotient, power, back) + low) / power;
  const doubt = quotient * DOUBT;
  const nearest = quotient + rest;
  return quotient + (rest - doubt) === nearest && quotient + (rest + doubt) === nearest ? nearest : -1;
}

/** What a * b is more than `product`, its nearest double (Dekker). */
function productError(a: number, b: number, product: number): number {
  const wideA = SPLITTER * a;
  const highA = wideA - (wideA - a);
  const lowA = a - highA;
  const wideB = SPLITTER * b;
  const highB = wideB - (wideB - b);
  const lowB = b - highB;
  return lowA * lowB - (product - highA * highB - lowA * highB - highA * lowB);
}
