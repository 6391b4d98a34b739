import { readUsd } from '../formats/usd/readUsd.ts';
import { memorySource } from '../parcel/fileSource.ts';
import type { SceneDocument } from '../scene/document.ts';

/** Text as bytes. */
export const bytes = (text: string) => new TextEncoder().encode(text);
/** Head of a scene in metres, y up. */
export const HEAD = '#usda 1.0\n( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Y" )\n';
/** What a Mesh prim of one face of four corners says. */
export const QUAD =
  'point3f[] points = [(0,0,0), (2,0,0), (2,3,0), (0,3,0)]\nint[] faceVertexCounts = [4]\nint[] faceVertexIndices = [0, 1, 2, 3]\n';
/** What a Mesh prim of a face of four corners and one of three says. */
export const PAIR =
  'point3f[] points = [(0,0,0), (1,0,0), (1,1,0), (0,1,0), (0,0,1)]\nint[] faceVertexCounts = [4, 3]\nint[] faceVertexIndices = [0,1,2,3, 0,1,4]\n';

/** Reads a scene of these prims, with further layers beside it. */
export function readScene(body: string, files: Record<string, string> = {}): Promise<SceneDocument> {
  const layers = Object.entries(files).map(
    ([path, text]) => [path, text.startsWith('#') ? text : `#usda 1.0\n${text}`] as const,
  );
  const all = new Map([['quay.usda', HEAD + body], ...layers]);
  const source = memorySource(
    'test',
    Object.fromEntries([...all].map(([path, text]) => [path, bytes(text)])),
  );
  return readUsd(bytes(all.get('quay.usda') ?? ''), 'quay.usda', source);
}

/** What reading a scene told, line by line. */
export const reported = (document: SceneDocument) =>
  document.remarks.map(({ code, message }) => `${code}: ${message}`).join('\n');
