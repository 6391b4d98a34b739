import type { PolygonMesh } from '../scene/document.ts';
import { placesOf } from '../scene/solids.ts';
import { AGAINST, eachNormal, measureFaces, measureSolids } from './shapeFacts.ts';
import { EDGE_MIXED, EDGE_OPEN, findDoubled, markEdges, walkEdges } from './topology.ts';
import { markUvs } from './uvFacts.ts';

/** A fault of shape that single faces have. */
export type FaceFault =
  | 'inward'
  | 'against'
  | 'brokenNormals'
  | 'mixed'
  | 'open'
  | 'doubled'
  | 'degenerate'
  | 'noUv'
  | 'uvCollapsed'
  | 'uvOutside';

/** Which faces have a fault, by the same rules as they are counted: 1 for each that has it. */
export function faultyFaces(mesh: PolygonMesh, fault: FaceFault): Uint8Array {
  const faces = measureFaces(mesh);
  if (fault === 'degenerate') return faces.degenerate;
  if (fault === 'noUv' || fault === 'uvCollapsed' || fault === 'uvOutside')
    return markUvs(mesh, faces.areas, fault);
  const marks = new Uint8Array(mesh.faceCounts.length);
  if (fault === 'against' || fault === 'brokenNormals') {
    if (mesh.normals)
      eachNormal(mesh, mesh.normals, faces, (face, along, broken) => {
        if (fault === 'against' ? along < AGAINST : broken > 0) marks[face] = 1;
      });
    return marks;
  }
  const places = placesOf(mesh.points);
  const doubled = findDoubled(mesh, places, faces.degenerate);
  if (fault === 'doubled') return doubled.map((value) => Math.min(1, value));
  if (fault === 'inward') {
    const topology = walkEdges(mesh, places, doubled);
    const inward = new Set(measureSolids(mesh, topology, faces, doubled).inwardSolids);
    return marks.map((_, face) => Number(inward.has(topology.solid[face])));
  }
  const bit = fault === 'open' ? EDGE_OPEN : EDGE_MIXED;
  return markEdges(mesh, places, doubled).map((value) => Number((value & bit) !== 0));
}
