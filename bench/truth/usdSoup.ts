import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three';
import { addFace, type Corner, paintOf, type Soup } from './soup.ts';
import type { Look, Prim, Sheet, UsdScene, Values } from './usdScene.ts';

interface Inherited {
  world: Matrix4;
  paint: number;
  strong: boolean;
}

/** What is seen of a scene at a moment, in seconds, by the rules of USD. */
export function soupOfScene({ root, looks, unit, up }: UsdScene, second = 0): Soup {
  const viewer = new Viewer(looks, second, { unit, up });
  viewer.see(root, { world: viewer.stage, paint: -1, strong: false });
  return viewer.soup;
}

class Viewer {
  readonly soup: Soup = new Map();
  readonly stage: Matrix4;

  constructor(
    private readonly looks: readonly Look[],
    private readonly second: number,
    { unit, up }: Pick<UsdScene, 'unit' | 'up'>,
  ) {
    const axes = new Matrix4().makeRotationX(up === 'Z' ? -Math.PI / 2 : 0);
    this.stage = axes.multiply(new Matrix4().makeScale(unit, unit, unit));
  }

  /** Adds what is seen of a prim and what hangs on it. */
  see(prim: Prim, above: Inherited): void {
    if (prim.hidden !== '') return;
    const world = (prim.resets ? this.stage : above.world).clone();
    for (const { at } of prim.ops) world.multiply(at(this.second));
    const own = prim.paint >= 0 && !above.strong;
    const here: Inherited = {
      world,
      paint: own ? prim.paint : above.paint,
      strong: above.strong || (prim.paint >= 0 && prim.strong),
    };
    if (prim.sheet) this.seeSheet(prim.sheet, here);
    const { collection } = prim;
    if (!prim.instances)
      for (const [i, child] of prim.children.entries())
        this.see(
          child,
          collection?.children.includes(i) && !here.strong
            ? { ...here, paint: collection.paint, strong: prim.strong }
            : here,
        );
    for (const { child, place, turn, scale, hidden } of prim.instances ?? []) {
      const [w, x, y, z] = turn;
      const own = new Matrix4().compose(
        new Vector3(...place),
        new Quaternion(x, y, z, w),
        new Vector3(scale, scale, scale),
      );
      const under = { ...here, world: world.clone().multiply(own) };
      if (!hidden) this.see(prim.children[child], under);
    }
  }

  private seeSheet(sheet: Sheet, { world, paint, strong }: Inherited): void {
    const turned = new Matrix3().getNormalMatrix(world);
    const mirrored = world.determinant() < 0;
    let corner = 0;
    sheet.faces.forEach((face, index) => {
      const subset = sheet.subsets[index];
      const slot = subset >= 0 && !strong ? subset : paint;
      const look = this.looks[slot];
      const set = sheet.uvs.find(({ name }) => name === look?.set);
      const corners = face.map((point, k): Corner => {
        const at = { point, face: index, corner: corner + k };
        return {
          place: sheet.points[point].clone().applyMatrix4(world),
          uv: set ? laid(valueAt(set, at), look) : null,
          normal: sheet.normals
            ? new Vector3(...valueAt(sheet.normals, at)).applyMatrix3(turned).normalize()
            : null,
        };
      });
      corner += face.length;
      if (sheet.holes.includes(index)) return;
      if (sheet.leftHanded !== mirrored) corners.reverse();
      addFace(paintOf(this.soup, look?.colour ?? []), corners);
    });
  }
}

function valueAt(
  { way, items, indices }: Values,
  at: { point: number; face: number; corner: number },
): number[] {
  const index = {
    constant: 0,
    uniform: at.face,
    vertex: at.point,
    varying: at.point,
    faceVarying: at.corner,
  }[way];
  return items[indices ? indices[index] : index];
}

/** UsdTransform2d: scaled, turned, moved, from the lower left; told from the upper left. */
function laid([u, v]: number[], { scale, turn, move }: Look): [number, number] {
  const angle = (turn * Math.PI) / 180;
  const [x, y] = [u * scale[0], v * scale[1]];
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return [x * c - y * s + move[0], 1 - (x * s + y * c + move[1])];
}
