import { CanvasTexture, ClampToEdgeWrapping } from 'three';
import { pictureUrl } from '@/ui/api';
import { loadPicture } from './loadPicture.ts';

/** A tile of a map with the content of its image. */
export interface TilePicture {
  number: number;
  sha256: string;
}

/** Longest side of the whole, and most pixels of one tile. */
const ATLAS_SIZE = 4096;
const TILE_SIZE = 1024;
/** A normal that points straight up, and a middling number elsewhere. */
const FLAT = '#8080ff';

/**
 * All tiles of a map as one texture, laid out as in the UV plane, so that coordinates from 0 to the number of
 * tiles reach across it. Tiles that are missing are striped.
 */
export function createAtlas(
  tiles: readonly TilePicture[],
  colour: boolean,
  changed: () => void,
): CanvasTexture {
  const places = tiles.map(({ number, sha256 }) => ({
    column: (number - 1001) % 10,
    row: Math.floor((number - 1001) / 10),
    sha256,
  }));
  const columns = Math.max(...places.map(({ column }) => column)) + 1;
  const rows = Math.max(...places.map(({ row }) => row)) + 1;
  const size = Math.min(TILE_SIZE, Math.floor(ATLAS_SIZE / Math.max(columns, rows)));
  const canvas = document.createElement('canvas');
  canvas.width = columns * size;
  canvas.height = rows * size;
  const context = canvas.getContext('2d') as CanvasRenderingContext2D;
  if (colour) stripe(context, canvas.width, canvas.height);
  else {
    context.fillStyle = FLAT;
    context.fillRect(0, 0, canvas.width, canvas.height);
  }
  const texture = new CanvasTexture(canvas);
  let gone = false;
  texture.addEventListener('dispose', () => {
    gone = true;
  });
  texture.wrapS = texture.wrapT = ClampToEdgeWrapping;
  // v grows downwards here: the first row of tiles is the lowest of the picture.
  texture.repeat.set(1 / columns, 1 / rows);
  texture.offset.set(0, (rows - 1) / rows);
  for (const { column, row, sha256 } of places) {
    const shown = (image: HTMLImageElement) => {
      context.clearRect(column * size, (rows - 1 - row) * size, size, size);
      context.drawImage(image, column * size, (rows - 1 - row) * size, size, size);
      texture.needsUpdate = true;
      changed();
    };
    loadPicture(pictureUrl(sha256, size), {
      name: `tile ${1001 + column + row * 10}`,
      shown,
      wanted: () => !gone,
    });
  }
  return texture;
}

function stripe(context: CanvasRenderingContext2D, width: number, height: number): void {
  context.fillStyle = '#f6ded6';
  context.fillRect(0, 0, width, height);
  context.strokeStyle = '#c4604c';
  context.lineWidth = 28;
  for (let x = -height; x < width; x += 64) {
    context.beginPath();
    context.moveTo(x, height);
    context.lineTo(x + height, 0);
    context.stroke();
  }
}
