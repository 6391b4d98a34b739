import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';
import { samplePlaces } from './samplePlaces.ts';

/** Cells along each side of a sketch. */
export const SKETCH = 32;
/** Samples along each side of a cell. */
const SAMPLES = 8;

/**
 * An image in 32 by 32 cells, component after component, as bytes in base64: enough to compare two images by.
 */
export function sketchOf({ width, height, components, data }: PixelBuffer): string {
  const scale = 255 / unitOf(data);
  const rows = samplePlaces(height, SKETCH, SAMPLES).map((y) => y * width * components);
  const columns = samplePlaces(width, SKETCH, SAMPLES).map((x) => x * components);
  let text = '';
  for (let k = 0; k < components; k += 1) {
    for (let row = 0; row < SKETCH; row += 1) {
      for (let column = 0; column < SKETCH; column += 1) {
        let sum = 0;
        for (let i = row * SAMPLES; i < (row + 1) * SAMPLES; i += 1) {
          const from = rows[i] + k;
          for (let j = column * SAMPLES; j < (column + 1) * SAMPLES; j += 1) sum += data[from + columns[j]];
        }
        text += String.fromCharCode(
          Math.min(255, Math.max(0, Math.round((sum * scale) / (SAMPLES * SAMPLES)))),
        );
      }
    }
  }
  return btoa(text);
}

/**
 * One component of a sketch in 0..1; `luminance` weighs r, g and b by Rec.709. Null where it has no such
 * component.
 */
export function sketchPlane(sketch: string, component: 'luminance' | number): Float64Array | null {
  const bytes = atob(sketch);
  const cells = SKETCH * SKETCH;
  const components = bytes.length / cells;
  const plane = (k: number) =>
    Float64Array.from({ length: cells }, (_, i) => bytes.charCodeAt(k * cells + i) / 255);
  if (component !== 'luminance') return component < components ? plane(component) : null;
  if (components < 3) return plane(0);
  const [r, g, b] = [plane(0), plane(1), plane(2)];
  return r.map((value, i) => 0.2126 * value + 0.7152 * g[i] + 0.0722 * b[i]);
}

/** Slope and correlation of y over x by least squares; null where x hardly varies. */
export function fitLine(x: Float64Array, y: Float64Array): { slope: number; correlation: number } | null {
  const n = x.length;
  const [meanX, meanY] = [
    x.reduce((sum, value) => sum + value, 0) / n,
    y.reduce((sum, value) => sum + value, 0) / n,
  ];
  let [xx, yy, xy] = [0, 0, 0];
  for (let i = 0; i < n; i += 1) {
    const [dx, dy] = [x[i] - meanX, y[i] - meanY];
    xx += dx * dx;
    yy += dy * dy;
    xy += dx * dy;
  }
  if (xx / n < 1e-4 || yy === 0) return null;
  return { slope: xy / xx, correlation: xy / Math.sqrt(xx * yy) };
}
