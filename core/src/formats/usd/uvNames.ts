import type { PolygonMesh, SceneDocument } from '../../scene/document.ts';
import { setPlace } from '../../scene/setPlace.ts';
import { cleanIdentifier } from './identifiers.ts';

const FIRST = 'st';
/** Names that mean something else on a mesh. */
const TAKEN = ['normals', 'tangents', 'binormals', 'displayColor', 'displayOpacity'];

/**
 * What UV sets are called in a stage: the first is always `st`; one that a material asks for by name is called so
 * wherever it stands at that place, so that the material finds it on all its meshes; others keep their names.
 */
export class UvNames {
  private readonly asked = new Map<number, string>();

  constructor(private readonly document: SceneDocument) {
    document.materials.forEach(({ channels }, material) => {
      for (const channel of Object.values(channels)) {
        const set = channel?.map?.uvSet ?? null;
        const place = this.placeOf(material, set);
        if (set === null || place === 0 || this.asked.has(place)) continue;
        this.asked.set(
          place,
          this.unlike(cleanIdentifier(set, `${FIRST}${place}`), place, this.asked.values()),
        );
      }
    });
  }

  /** The name by which a material reads a set of its meshes. */
  of(material: number, set: string | null): string {
    return this.asked.get(this.placeOf(material, set)) ?? FIRST;
  }

  /** Names of a mesh's sets, in their order. */
  all({ uvSets }: PolygonMesh): string[] {
    const names: string[] = [];
    uvSets.forEach(({ name }, place) => {
      const own = this.asked.get(place);
      if (place === 0) names.push(FIRST);
      else if (own) names.push(own);
      else
        names.push(
          this.unlike(cleanIdentifier(name, `${FIRST}${place}`), place, [...names, ...this.asked.values()]),
        );
    });
    return names;
  }

  private unlike(name: string, place: number, others: Iterable<string>): string {
    const taken = new Set([FIRST, ...TAKEN, ...others]);
    let free = name;
    while (taken.has(free)) free = `${free}_${place}`;
    return free;
  }

  /** Where the set stands on the first mesh that has it of those that the material is on. */
  private placeOf(material: number, set: string | null): number {
    if (set === null) return 0;
    return Math.max(
      0,
      setPlace(this.document, set, ({ materials }) => materials.includes(material)),
    );
  }
}
