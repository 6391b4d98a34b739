import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';
import type { NormalDirection } from '../scene/material.ts';

/** Which way green points in a tangent-space normal map, judged from its slopes. */
export interface DirectionEvidence {
  /** Null where the map does not tell. */
  direction: NormalDirection | null;
  /** In 0..1. */
  confidence: number;
  /** Correlation of the two cross derivatives in -1..1: 1 for a perfect Y+ surface, -1 for Y-. */
  correlation: number;
}

/** Side of a square that is looked at, in cells, and how many are spread over each direction of the map. */
const WINDOW = 48;
const WINDOWS = 10;
const COARSE_WINDOWS = 6;
/** Cells of so many pixels squared are averaged first; coarse ones outlive noise and JPEG. */
const CELLS = [1, 2, 4, 8];
/** Cross derivatives below this are flat, above that they are seams between islands. */
const FLAT = 2e-3;
const SEAM = 1.2;
/** Normals that lean further than this are no height field's. */
const MIN_Z = 0.08;
/** A correlation from which the surface alone explains the map. */
const FULL_CORRELATION = 0.3;
const MIN_CONFIDENCE = 0.5;
const ENOUGH = 0.98;

/**
 * With p = -nx / nz and q = -ny / nz a true height field has dp/dy = dq/dx, y upwards; a map whose green
 * points the other way has dp/dy = -dq/dx. The correlation of the two over many windows gives the direction,
 * its steadiness from window to window the confidence. Flat cells and jumps between islands are passed over.
 * Needs 3 or more components, or 2 (x and y alone).
 */
export function findNormalDirection(buffer: PixelBuffer): DirectionEvidence {
  let best: DirectionEvidence = { direction: null, confidence: 0, correlation: 0 };
  for (const cell of CELLS) {
    if (Math.min(buffer.width, buffer.height) < cell * 8) break;
    const directionEvidence = judge(buffer, cell);
    if (directionEvidence.confidence > best.confidence) best = directionEvidence;
    // Coarser cells are for maps whose finest slopes drown in noise.
    if (best.confidence >= ENOUGH) break;
  }
  return best.confidence >= MIN_CONFIDENCE ? best : { ...best, direction: null };
}

function judge(buffer: PixelBuffer, cell: number): DirectionEvidence {
  const columns = Math.floor(buffer.width / cell);
  const rows = Math.floor(buffer.height / cell);
  const size = Math.min(WINDOW, columns, rows);
  const most = cell >= 4 ? COARSE_WINDOWS : WINDOWS;
  const across = Math.min(most, Math.max(1, Math.floor(columns / size)));
  const down = Math.min(most, Math.max(1, Math.floor(rows / size)));
  const windows: { product: number; energy: number }[] = [];
  for (let j = 0; j < down; j += 1) {
    for (let i = 0; i < across; i += 1) {
      const left = across === 1 ? 0 : Math.round((i * (columns - size)) / (across - 1));
      const top = down === 1 ? 0 : Math.round((j * (rows - size)) / (down - 1));
      for (const part of quarters(buffer, { cell, left, top, size })) if (part.energy > 0) windows.push(part);
    }
  }
  if (windows.length < 3) return { direction: null, confidence: 0, correlation: 0 };
  // No single window may outweigh the others: a seam that was taken for slope has much energy and no meaning.
  const energies = windows.map(({ energy }) => energy).sort((a, b) => a - b);
  const cap = energies[energies.length >> 1] * 4;
  let product = 0;
  let energy = 0;
  let squares = 0;
  for (const window of windows) {
    const weight = Math.min(1, cap / window.energy);
    product += window.product * weight;
    energy += window.energy * weight;
    squares += (window.product * weight) ** 2;
  }
  const correlation = product / energy;
  const mean = product / windows.length;
  const spread = Math.sqrt(Math.max(1e-30, squares / windows.length - mean * mean) / windows.length);
  const steadiness = Math.abs(mean) / (spread + Math.abs(mean) * 0.02);
  const confidence =
    Math.min(1, Math.abs(correlation) / FULL_CORRELATION) * (1 - Math.exp(-(steadiness * steadiness) / 8));
  return {
    direction: correlation >= 0 ? 'Y+' : 'Y-',
    confidence: Math.round(confidence * 1000) / 1000,
    correlation,
  };
}

/** A square of an image: side and place in cells of so many pixels. */
interface Square {
  cell: number;
  left: number;
  top: number;
  size: number;
}

/** Sums over the four quarters of one window, so that a single window still tells how steady it is. */
function quarters(buffer: PixelBuffer, square: Square): { product: number; energy: number }[] {
  const { size } = square;
  const { p, q, valid } = slopes(buffer, square);
  const parts = Array.from({ length: 4 }, () => ({ product: 0, a: 0, b: 0 }));
  for (let y = 1; y < size - 1; y += 1) {
    for (let x = 1; x < size - 1; x += 1) {
      const index = y * size + x;
      if (!(valid[index - 1] && valid[index + 1] && valid[index - size] && valid[index + size])) continue;
      // Rows run downwards, y upwards.
      const a = (p[index - size] - p[index + size]) / 2;
      const b = (q[index + 1] - q[index - 1]) / 2;
      if (Math.abs(a) < FLAT && Math.abs(b) < FLAT) continue;
      if (Math.abs(a) > SEAM || Math.abs(b) > SEAM) continue;
      const part = parts[(y * 2 >= size ? 2 : 0) + (x * 2 >= size ? 1 : 0)];
      part.product += a * b;
      part.a += a * a;
      part.b += b * b;
    }
  }
  return parts.map(({ product, a, b }) => ({ product, energy: (a + b) / 2 }));
}

function slopes({ width, components, data }: PixelBuffer, { cell, left, top, size }: Square) {
  const p = new Float32Array(size * size);
  const q = new Float32Array(size * size);
  const valid = new Uint8Array(size * size);
  const scale = 2 / unitOf(data);
  for (let y = 0; y < size; y += 1) {
    for (let x = 0; x < size; x += 1) {
      let [nx, ny, nz] = [0, 0, 0];
      for (let j = 0; j < cell; j += 1) {
        let index = (((top + y) * cell + j) * width + (left + x) * cell) * components;
        for (let i = 0; i < cell; i += 1, index += components) {
          const vx = data[index] * scale - 1;
          const vy = data[index + 1] * scale - 1;
          nx += vx;
          ny += vy;
          nz += components >= 3 ? data[index + 2] * scale - 1 : Math.sqrt(Math.max(0, 1 - vx * vx - vy * vy));
        }
      }
      const length = Math.sqrt(nx * nx + ny * ny + nz * nz);
      if (nz < MIN_Z * length || length === 0) continue;
      const offset = y * size + x;
      p[offset] = -nx / nz;
      q[offset] = -ny / nz;
      valid[offset] = 1;
    }
  }
  return { p, q, valid };
}
