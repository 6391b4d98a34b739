import type { PolygonMesh, Vec3 } from '@kinkajou/core/scene/document';

/** A part of a demo asset: a mesh with one material, placed where it stands. */
export interface DemoPart {
  name: string;
  material: string;
  mesh: PolygonMesh;
  translation?: Vec3;
  /** Degrees, order XYZ. */
  rotation?: Vec3;
  parent?: string;
}

/** A generated parcel, and the faults that were put into it on purpose. */
export interface DemoParcel {
  id: string;
  title: string;
  /** Files by path inside the zip. */
  files: Record<string, Uint8Array>;
  /** Codes of the findings that must appear, each with its subject. */
  faults: {
    code: string;
    subject: string;
    why: string /** Of parcels with several models: which. */;
    model?: string;
  }[];
}
