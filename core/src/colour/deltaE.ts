/** L*, a*, b*. */
export type Lab = readonly [number, number, number];

/** Rows of linear Rec.709 to XYZ under D65 (IEC 61966-2-1), divided by its white. */
const TO_XYZ = [
  [0.4123907992659595, 0.357584339383878, 0.1804807884018343],
  [0.21263900587151027, 0.715168678767756, 0.07219231536073371],
  [0.01933081871559182, 0.11919477979462598, 0.9505321522496607],
];
const WHITE = [0.9504559270516716, 1, 1.0890577507598784];

/** Linear Rec.709 to CIELAB under its own white, D65 (CIE 15). */
export function labOf([r, g, b]: readonly [number, number, number]): Lab {
  const [x, y, z] = TO_XYZ.map((row, i) => cubeRoot((row[0] * r + row[1] * g + row[2] * b) / WHITE[i]));
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

function cubeRoot(t: number): number {
  return t > 216 / 24389 ? Math.cbrt(t) : ((24389 / 27) * t + 16) / 116;
}

const RADIAN = Math.PI / 180;
const HIGH = 25 ** 7;

/**
 * Difference of two colours as people see it, CIEDE2000 with all weights 1: about 1 is just seen side by
 * side. Formula of CIE 142-2001 in the order of Sharma, Wu and Dalal (2005).
 */
export function deltaE2000([l1, a1, b1]: Lab, [l2, a2, b2]: Lab): number {
  const middle = ((Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2) ** 7;
  const g = 0.5 * (1 - Math.sqrt(middle / (middle + HIGH)));
  const [p1, p2] = [a1 * (1 + g), a2 * (1 + g)];
  const [c1, c2] = [Math.hypot(p1, b1), Math.hypot(p2, b2)];
  const [h1, h2] = [hue(p1, b1), hue(p2, b2)];
  const grey = c1 * c2 === 0;
  let turn = grey ? 0 : h2 - h1;
  if (turn > 180) turn -= 360;
  else if (turn < -180) turn += 360;
  const dl = l2 - l1;
  const dc = c2 - c1;
  const dh = 2 * Math.sqrt(c1 * c2) * Math.sin((turn / 2) * RADIAN);
  const l = (l1 + l2) / 2;
  const c = (c1 + c2) / 2;
  const h = meanHue(grey, h1, h2);
  const t =
    1 - 0.17 * cosine(h - 30) + 0.24 * cosine(2 * h) + 0.32 * cosine(3 * h + 6) - 0.2 * cosine(4 * h - 63);
  const sl = 1 + (0.015 * (l - 50) ** 2) / Math.sqrt(20 + (l - 50) ** 2);
  const sc = 1 + 0.045 * c;
  const sh = 1 + 0.015 * c * t;
  const rt =
    -2 * Math.sqrt(c ** 7 / (c ** 7 + HIGH)) * Math.sin(60 * Math.exp(-(((h - 275) / 25) ** 2)) * RADIAN);
  return Math.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 + rt * (dc / sc) * (dh / sh));
}

function meanHue(grey: boolean, h1: number, h2: number) {
  if (grey) return h1 + h2;
  return Math.abs(h1 - h2) <= 180 ? (h1 + h2) / 2 : (h1 + h2 + (h1 + h2 < 360 ? 360 : -360)) / 2;
}

function hue(a: number, b: number): number {
  if (a === 0 && b === 0) return 0;
  const angle = Math.atan2(b, a) / RADIAN;
  return angle < 0 ? angle + 360 : angle;
}

function cosine(degrees: number): number {
  return Math.cos(degrees * RADIAN);
}
