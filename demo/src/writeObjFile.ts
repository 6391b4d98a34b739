import type { DemoPart } from './scene.ts';

/**
 * Writes parts as OBJ text, one object each, polygons kept, indices shared across the file as the format
 * wants.
 */
export function writeObjFile(parts: DemoPart[], library: string, header: string): Uint8Array {
  const lines = [`# ${header}`, `mtllib ${library}`];
  let [points, uvs, normals] = [1, 1, 1];
  for (const { name, material, mesh } of parts) {
    lines.push(`o ${name}`);
    const emit = (word: string, values: ArrayLike<number>, size: number) => {
      for (let i = 0; i < values.length; i += size)
        lines.push(`${word} ${Array.from({ length: size }, (_, k) => values[i + k].toFixed(6)).join(' ')}`);
    };
    const [uv, normal] = [mesh.uvSets[0], mesh.normals];
    if (!uv?.index || !normal?.index) throw new Error(`${name} needs indexed UVs and normals`);
    emit('v', mesh.points, 3);
    emit('vt', uv.values, 2);
    emit('vn', normal.values, 3);
    lines.push(`usemtl ${material}`);
    let corner = 0;
    for (const count of mesh.faceCounts) {
      const words: string[] = [];
      for (let i = 0; i < count; i += 1, corner += 1)
        words.push(
          `${mesh.faceCorners[corner] + points}/${uv.index[corner] + uvs}/${normal.index[corner] + normals}`,
        );
      lines.push(`f ${words.join(' ')}`);
    }
    points += mesh.points.length / 3;
    uvs += uv.values.length / 2;
    normals += normal.values.length / 3;
  }
  return new TextEncoder().encode(`${lines.join('\n')}\n`);
}
