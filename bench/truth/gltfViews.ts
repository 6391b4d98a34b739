import { Matrix4 } from 'three';
import { GltfBytes } from './gltfBytes.ts';
import { alongTurns, matrixOf, quaternionOf, SECONDS } from './rigLot.ts';
import { type Aims, type KnownViews, shining, ViewLot } from './views.ts';

const AIMS: Aims = { camera: [0, 0, -1], light: [0, 0, -1] };

/** Cameras and lamps of glTF, below and beside each other. The same seed gives the same files. */
export function gltfViews(seed: number): KnownViews {
  return new Writer(seed).known();
}

class Writer extends ViewLot {
  private readonly cameras: object[] = [];
  private readonly lights: object[] = [];
  private readonly data = new GltfBytes();
  protected override readonly along = alongTurns;

  known(): KnownViews {
    const holders = Array.from({ length: 3 + this.below(5) }, (_, i) => this.holder(i));
    const positions = this.data.accessor([
      [0, 0, 0],
      [1, 0, 0],
      [0, 1, 0],
    ]);
    const json = {
      asset: { version: '2.0' },
      extensionsUsed: ['KHR_lights_punctual'],
      extensions: {
        KHR_lights_punctual: { lights: this.lights.length > 0 ? this.lights : [{ type: 'point' }] },
      },
      scene: 0,
      scenes: [
        { nodes: this.frames.flatMap(({ parent }, i) => (parent < 0 ? [i] : [])).concat(holders.length) },
      ],
      nodes: [...holders.map((holder, i) => ({ ...this.placed(i), ...holder })), { name: 'Plate', mesh: 0 }],
      meshes: [{ primitives: [{ attributes: { POSITION: positions } }] }],
      ...(this.cameras.length > 0 ? { cameras: this.cameras } : {}),
      ...this.motion(),
      accessors: this.data.accessors,
      bufferViews: this.data.bufferViews,
      buffers: [{ uri: 'quay.bin', byteLength: this.data.bytes.length }],
    };
    return {
      files: {
        'quay.gltf': new TextEncoder().encode(JSON.stringify(json)),
        'quay.bin': Uint8Array.from(this.data.bytes),
      },
      model: 'quay.gltf',
      ...this.seen(new Matrix4(), AIMS),
    };
  }

  private placed(index: number): object {
    const { name, rest, keys } = this.frames[index];
    const children = this.frames.flatMap((frame, i) => (frame.parent === index ? [i] : []));
    const { move, angles, scale } = rest;
    // What is animated has no matrix.
    const words =
      !keys && this.chance(0.2)
        ? { matrix: matrixOf(rest).toArray() }
        : {
            translation: move,
            ...(angles.every((angle) => angle === 0) ? {} : { rotation: quaternionOf(rest).toArray() }),
            ...(scale === 1 ? {} : { scale: [scale, scale, scale] }),
          };
    return { name, ...words, ...(children.length > 0 ? { children } : {}) };
  }

  private motion(): object {
    const [samplers, channels]: [object[], object[]] = [[], []];
    const add = (node: number, path: string, rows: number[][]) => {
      const input = this.data.accessor(SECONDS.map((second) => [second]));
      channels.push({ sampler: samplers.length, target: { node, path } });
      samplers.push({ input, output: this.data.accessor(rows) });
    };
    for (const [node, { keys }] of this.frames.entries()) {
      if (!keys) continue;
      add(
        node,
        'translation',
        keys.map(({ move }) => move),
      );
      add(
        node,
        'rotation',
        keys.map((key) => quaternionOf(key).toArray()),
      );
    }
    return channels.length > 0 ? { animations: [{ samplers, channels }] } : {};
  }

  private holder(index: number): object {
    const at = this.frame(`View${index}`, 1);
    switch (this.below(5)) {
      case 0:
        return {};
      case 1: {
        const [angle, aspect] = [this.between(0.2, 2), this.pick([1.5, 16 / 9, 0.75])];
        this.cameras.push({
          type: 'perspective',
          perspective: {
            yfov: angle,
            aspectRatio: aspect,
            znear: 0.1,
            ...(this.chance(0.5) ? { zfar: 200 } : {}),
          },
        });
        this.see(at, { kind: 'perspective', numbers: { angle, aspect } });
        return { camera: this.cameras.length - 1 };
      }
      case 2: {
        const [xmag, ymag] = [this.between(1, 9), this.between(1, 9)];
        this.cameras.push({ type: 'orthographic', orthographic: { xmag, ymag, znear: 0.1, zfar: 50 } });
        this.see(at, { kind: 'orthographic', numbers: { width: xmag * 2, height: ymag * 2 } });
        return { camera: this.cameras.length - 1 };
      }
      default: {
        const kind = this.pick(['point', 'directional', 'spot']);
        const colour = this.chance(0.7)
          ? [this.between(0, 1), this.between(0, 1), this.between(0.1, 1)]
          : [1, 1, 1];
        const intensity = this.chance(0.8) ? this.pick([0.5, 3, 250, 54_000]) : 1;
        const outer = this.chance(0.7) ? this.between(0.2, 1.5) : Math.PI / 4;
        const inner = this.chance(0.7) ? this.between(0, outer - 0.05) : 0;
        const cone = {
          ...(outer === Math.PI / 4 ? {} : { outerConeAngle: outer }),
          ...(inner === 0 ? {} : { innerConeAngle: inner }),
        };
        this.lights.push({
          type: kind,
          ...(colour.every((component) => component === 1) ? {} : { color: colour }),
          ...(intensity === 1 ? {} : { intensity }),
          ...(kind === 'spot' ? { spot: cone } : {}),
        });
        const numbers = { ...shining(colour, intensity), ...(kind === 'spot' ? { inner, outer } : {}) };
        this.see(at, { kind, numbers });
        return { extensions: { KHR_lights_punctual: { light: this.lights.length - 1 } } };
      }
    }
  }
}
