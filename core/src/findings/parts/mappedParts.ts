import type { Part } from '../../asset/parts.ts';
import type { Material } from '../../scene/material.ts';
import type { SlotUvs } from '../../shape/uvFacts.ts';
import type { Finding, FindingText } from '../finding.ts';
import type { FindingContext } from '../findingContext.ts';

/** Faces of a part whose material reads images. */
export interface MappedFaces {
  part: Part;
  material: Material;
  uvs: SlotUvs;
}

/** What of each part has a material with maps; each mesh is asked once for each material. */
export function mappedFaces({ parts, state }: Pick<FindingContext, 'parts' | 'state'>): MappedFaces[] {
  const mapped = new Map(
    state.materials
      .filter(({ channels }) => Object.values(channels).some((channel) => channel?.map))
      .map((material) => [material.key, material]),
  );
  const seen = new Set<string>();
  return parts().flatMap((part) => {
    if (part.dropped || !part.facts) return [];
    return part.facts.uvs.flatMap((uvs): MappedFaces[] => {
      const material = mapped.get(part.slots[uvs.slot] ?? '');
      const id = `${part.shape ?? part.key} ${uvs.slot} ${material?.key}`;
      if (!material || seen.has(id)) return [];
      seen.add(id);
      return [{ part, material, uvs }];
    });
  });
}

/**
 * One finding for each material: about its only part, or about the material where several parts have the
 * fault.
 */
export function byMaterial(
  faulty: readonly MappedFaces[],
  text: (faces: MappedFaces[], where: string) => FindingText,
): Finding[] {
  const groups = new Map<string, MappedFaces[]>();
  for (const faces of faulty)
    groups.set(faces.material.key, [...(groups.get(faces.material.key) ?? []), faces]);
  return [...groups].map(([material, faces]): Finding => {
    const [{ part }] = faces;
    const words = text(faces, faces.length === 1 ? part.name : `${faces.length} parts with ${material}`);
    const evidence = [
      ...words.evidence,
      ...(faces.length > 1 ? faces.slice(0, 20).map((face) => face.part.name) : []),
    ];
    return {
      ...words,
      evidence,
      step: 'parts',
      key: `${words.code}:${material}`,
      subject: faces.length === 1 ? part.name : material,
      target: { part: part.key, material },
    };
  });
}
