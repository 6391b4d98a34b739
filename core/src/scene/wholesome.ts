import {
  addRemark,
  type Influences,
  type Layer,
  type Remark,
  type SceneDocument,
  type Track,
} from './document.ts';
import { unsoundTangents } from './tangents.ts';

/** What a value hangs on, for people: the nearest name above it and the field. */
interface Place {
  subject: string;
  field: string;
}

/**
 * Makes a document as read hold what everything behind takes for granted: numbers that are finite, times that
 * go forward, and names that every program can write. What is changed is told. In place, in one pass.
 */
export function makeWholesome(document: SceneDocument): void {
  const { remarks } = document;
  for (const clip of document.clips) {
    const keptTracks = clip.tracks.filter(goesForward);
    if (keptTracks.length < clip.tracks.length) {
      const message = 'tracks whose times are no numbers, or do not go forward, are left out';
      addRemark(
        remarks,
        { code: 'read.badNumber', severity: 'error', subject: clip.name, message },
        clip.tracks.length - keptTracks.length,
      );
    }
    clip.tracks = keptTracks;
    if (!Number.isFinite(clip.start) || !Number.isFinite(clip.end))
      [clip.start, clip.end] = spanOf(keptTracks);
  }
  if (!(Number.isFinite(document.metresPerUnit) && document.metresPerUnit > 0)) {
    document.metresPerUnit = 1;
    document.unitStated = false;
    addRemark(remarks, {
      code: 'read.unit',
      severity: 'warning',
      subject: 'unit',
      message: 'the unit that the file states is no length; metres were taken',
    });
  }
  for (const node of document.nodes) {
    const { influences, name } = document.meshes[node.mesh] ?? {};
    const joints = document.skins[node.skin]?.joints.length ?? 0;
    if (!influences || node.skin < 0) continue;
    const count = dropBeyond(influences, joints);
    const message = 'weights of joints that the skin does not have move nothing';
    if (count > 0)
      addRemark(
        remarks,
        { code: 'read.indexRange', severity: 'error', subject: name ?? node.name, message },
        count,
      );
  }
  mendGeometry(document);
  visit(
    contentOf(document),
    { subject: 'scene', field: '' },
    {
      number: ({ subject, field }, count) =>
        addRemark(
          remarks,
          {
            code: 'read.badNumber',
            severity: 'error',
            subject: `${subject}, ${field}`,
            message: 'numbers that are not finite were read as 0',
          },
          count,
        ),
      text: ({ subject }) =>
        addRemark(remarks, {
          code: 'read.badName',
          severity: 'warning',
          subject,
          message: 'letters that no program can write (nothing, or half a letter) were replaced',
        }),
    },
  );
}

/** Joints that are not there become the first with no weight, so that all lists keep their lengths. */
function dropBeyond({ joints, weights }: Influences, count: number): number {
  let dropped = 0;
  for (let i = 0; i < joints.length; i += 1) {
    if (joints[i] < count) continue;
    joints[i] = 0;
    weights[i] = 0;
    dropped += 1;
  }
  return dropped;
}

/** Points that are no places: the mesh has holes or spikes where they were. */
export function notFinite(part: string, where = ''): Omit<Remark, 'count'> {
  return {
    code: 'shape.notFinite',
    severity: 'error',
    subject: part,
    message: `coordinates that are no numbers were read as 0${where}`,
  };
}

/**
 * Points become finite, normals with a part that is not become none, tangents go where some are none; told by
 * the part that shows them.
 */
function mendGeometry({ meshes, nodes, remarks }: SceneDocument): void {
  meshes.forEach((mesh, i) => {
    if (mesh.normals) fillNormals(mesh.normals);
    const part = () => nodes.find((node) => node.mesh === i)?.name || mesh.name;
    const count = fillFinite(mesh.points);
    if (count > 0) addRemark(remarks, notFinite(part()), count);
    const unsound = unsoundTangents(mesh);
    if (unsound === 0) return;
    mesh.tangents = null;
    const message =
      'tangents that point nowhere, or along the normal: all of the part are left out, and programs make their own';
    addRemark(remarks, { code: 'read.layer', severity: 'note', subject: part(), message }, unsound);
  });
}

/** A direction with a part missing is none. */
function fillNormals({ values, size }: Layer): void {
  for (let i = 0; i < values.length; i += 1)
    if (values[i] - values[i] !== 0) values.fill(0, i - (i % size), i - (i % size) + size);
}

function contentOf({
  nodes,
  meshes,
  materials,
  images,
  cameras,
  lights,
  clips,
  skins,
}: SceneDocument): object {
  return { nodes, meshes, materials, images, cameras, lights, clips, skins };
}

interface Reports {
  number(place: Place, count: number): void;
  text(place: Place): void;
}

/** Moments that no clip has: some thirty years. */
const MOST_SECONDS = 1e9;

/** Fields that may be without end. */
const ENDLESS = new Set(['far']);

function visit(value: object, place: Place, reports: Reports): void {
  const named = (value as { name?: unknown }).name;
  const subject = typeof named === 'string' && named !== '' ? writable(named) : place.subject;
  for (const [field, member] of Object.entries(value)) {
    const here = { subject, field: Array.isArray(value) ? place.field : field };
    if (typeof member === 'number') {
      if (Number.isFinite(member) || ENDLESS.has(field)) continue;
      (value as Record<string, unknown>)[field] = 0;
      reports.number(here, 1);
    } else if (typeof member === 'string') {
      const changed = writable(member);
      if (changed === member) continue;
      (value as Record<string, unknown>)[field] = changed;
      reports.text(here);
    } else if (member instanceof Float64Array || member instanceof Float32Array) {
      const count = fillFinite(member);
      if (count > 0) reports.number(here, count);
    } else if (typeof member === 'object' && member !== null && !ArrayBuffer.isView(member))
      visit(member, here, reports);
  }
}

function fillFinite(values: Float64Array | Float32Array): number {
  let count = 0;
  for (let i = 0; i < values.length; i += 1) {
    // A number less itself is 0 unless it is not finite.
    if (values[i] - values[i] === 0) continue;
    values[i] = 0;
    count += 1;
  }
  return count;
}

function writable(text: string): string {
  return text.includes('\0') || !text.isWellFormed() ? text.toWellFormed().replaceAll('\0', '\uFFFD') : text;
}

function goesForward({ times }: Track): boolean {
  return times.every((time, i) => Math.abs(time) <= MOST_SECONDS && (i === 0 || time >= times[i - 1]));
}

function spanOf(tracks: readonly Track[]): [number, number] {
  const ends = tracks.flatMap(({ times }) => (times.length > 0 ? [times[0], times[times.length - 1]] : []));
  return ends.length === 0 ? [0, 0] : [Math.min(...ends), Math.max(...ends)];
}
