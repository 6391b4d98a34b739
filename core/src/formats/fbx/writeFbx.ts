import { turnViews } from '../../scene/aim.ts';
import { coloursUnsaid } from '../../scene/colours.ts';
import type { SceneDocument, SceneNode } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import type { ChannelName } from '../../scene/material.ts';
import { withMaterialForSlots } from '../../scene/materialForAll.ts';
import {
  geometricMatrix,
  invertAffine,
  type Matrix4,
  multiply,
  partsOfMatrix,
  worldMatrices,
} from '../../scene/matrix.ts';
import { partsOffJoints } from '../../scene/partsOffJoints.ts';
import { flooredRoughness } from '../../scene/shading.ts';
import { shearedNodes } from '../../scene/sheared.ts';
import { partsUnsaid } from '../../scene/unsaidParts.ts';
import { Losses, plainTarget, type TargetOf } from '../written.ts';
import { turnToFbx } from './aim.ts';
import { withPlainGeometricOrders } from './geometricOrders.ts';
import {
  D,
  doubleEntry,
  doubles,
  entry,
  enumEntry,
  I,
  integerEntry,
  integers,
  L,
  numberEntry,
  object,
  properties70,
  R,
  record,
  S,
} from './records.ts';
import type { FbxNode, FbxTree } from './tree.ts';
import { writeAsciiFbx } from './writeAscii.ts';
import { attributeRecord, modelRecord } from './writeAttributes.ts';
import { writeBinaryFbx } from './writeBinary.ts';
import { type ClipSink, writeClip } from './writeClips.ts';
import { geometryRecord, shapeRecord } from './writeGeometry.ts';
import { mapProperty, materialRecord, textureRecord, videoRecord } from './writeMaterial.ts';

/** How the file is written: binary 7.4 unless another form or version is given. */
export interface FbxWriteOptions {
  form?: 'binary' | 'text';
  version?: 7400 | 7500;
  /** Written into the header as the creating program. */
  creator?: string;
  targetOf?: TargetOf;
}

/** The file id that belongs to the fixed creation time and closing bytes of every file written here. */
const FILE_ID = Uint8Array.of(
  0x28,
  0xb3,
  0x2a,
  0xeb,
  0xb6,
  0x24,
  0xcc,
  0xc2,
  0xbf,
  0xc8,
  0xb0,
  0x2a,
  0xa9,
  0x2b,
  0xfc,
  0xf1,
);
const CREATION_TIME = '1970-01-01 10:00:00:000';
const FIRST_ID = 1_000_000;

/**
 * Writes a document as FBX 7.4 or 7.5: polygons kept, layers indexed as they are, units and axes as the
 * document has them. The same document always gives the same bytes.
 */
export function writeFbx(
  document: SceneDocument,
  options: FbxWriteOptions = {},
): { bytes: Uint8Array; losses: Loss[] } {
  const losses = new Losses();
  const tree = new FileBuilder(asFbxHasIt(document, losses), options, losses).build();
  return {
    bytes: options.form === 'text' ? writeAsciiFbx(tree) : writeBinaryFbx(tree),
    losses: losses.list(),
  };
}

/** Without domes, which FBX has none of, and with cameras and lights turned to where its own look. */
function asFbxHasIt(document: SceneDocument, losses: Losses): SceneDocument {
  const isDome = ({ light }: SceneNode) => document.lights[light]?.kind === 'dome';
  if (document.nodes.some(isDome)) losses.add({ code: 'fbx.dome' });
  const nodes = document.nodes.map((node) =>
    isDome(node) ? { ...node, kind: 'group' as const, light: -1 } : node,
  );
  const joints = new Set(document.skins.flatMap((skin) => skin.joints));
  const apart = partsOffJoints({ ...document, nodes }, joints);
  for (const { name } of apart.nodes.slice(nodes.length)) losses.add({ code: 'fbx.onBone', part: name });
  const { document: bound, parts } = withMaterialForSlots(apart);
  for (const part of parts) losses.add({ code: 'part.noMaterial', part, detail: 'FBX' });
  const views = { ...bound, nodes: withStraightViews(bound.nodes) };
  return withPlainGeometricOrders({ ...views, ...turnViews(views, turnToFbx) });
}

/**
 * Shear does nothing to a camera or a light of no shape: where it looks and what is up is all of it. They are
 * brought to that before they are turned.
 */
function withStraightViews(nodes: readonly SceneNode[]): SceneNode[] {
  const parents = new Set(nodes.map(({ parent }) => parent));
  return nodes.map((node, i) => {
    const { matrix } = node.transform;
    const isBare = (node.camera >= 0 || node.light >= 0) && node.mesh < 0 && !parents.has(i);
    if (!matrix || !isBare) return node;
    return { ...node, transform: { ...node.transform, ...partsOfMatrix(matrix), matrix: null } };
  });
}

class FileBuilder {
  private nextId = FIRST_ID;
  private readonly objects: FbxNode[] = [];
  private readonly links: FbxNode[] = [];
  private readonly models: number[] = [];
  private readonly materials: number[] = [];
  private readonly shapeChannels = new Map<number, number[]>();
  private readonly worlds: Matrix4[];

  constructor(
    private readonly document: SceneDocument,
    private readonly options: FbxWriteOptions,
    private readonly losses: Losses,
  ) {
    this.worlds = worldMatrices(document.nodes);
  }

  build(): FbxTree {
    const { document, options } = this;
    const documentId = this.newId();
    this.addMaterials();
    this.addNodes();
    this.addGeometry();
    this.addClips();
    const version = options.version ?? 7400;
    return {
      version,
      binary: options.form !== 'text',
      nodes: [
        record(
          'FBXHeaderExtension',
          [],
          [
            record('FBXHeaderVersion', [I(1003)]),
            record('FBXVersion', [I(version)]),
            record('Creator', [S(options.creator ?? 'Kinkajou')]),
          ],
        ),
        record('FileId', [R(FILE_ID)]),
        record('CreationTime', [S(CREATION_TIME)]),
        record('Creator', [S(options.creator ?? 'Kinkajou')]),
        globalSettings(document),
        record(
          'Documents',
          [],
          [
            record('Count', [I(1)]),
            record(
              'Document',
              [L(documentId), S('Scene'), S('Scene')],
              [properties70([]), record('RootNode', [L(0)])],
            ),
          ],
        ),
        record('References'),
        definitions(this.objects),
        record('Objects', [], this.objects),
        record('Connections', [], this.links),
        record('Takes', [], [record('Current', [S('')])]),
      ],
    };
  }

  private newId(): number {
    this.nextId += 1;
    return this.nextId;
  }

  private add(node: FbxNode): void {
    this.objects.push(node);
  }

  private link(child: number, parent: number, property?: string): void {
    this.links.push(
      record('C', [S(property ? 'OP' : 'OO'), L(child), L(parent), ...(property ? [S(property)] : [])]),
    );
  }

  private addMaterials(): void {
    const videos = new Map<string, number>();
    const target = this.options.targetOf ?? plainTarget;
    const images = new Map(this.document.images.map((image) => [image.key, image]));
    for (const material of this.document.materials) {
      const id = this.newId();
      this.materials.push(id);
      this.add(materialRecord(material, id));
      const floor = material.workflow === 'legacy' ? flooredRoughness(material) : null;
      if (floor !== null)
        this.losses.add({
          code: 'value.floor',
          material: material.key,
          channel: 'roughness',
          detail: String(floor),
        });
      for (const [name, channel] of Object.entries(material.channels)) {
        const image = channel.map && images.get(channel.map.image);
        if (!channel.map || !image) continue;
        const { path, embed } = target(image);
        const title = path.slice(path.lastIndexOf('/') + 1).replace(/\.\w+$/, '');
        const video = videos.get(image.key) ?? this.addVideo(title, path, embed);
        videos.set(image.key, video);
        const texture = this.newId();
        this.add(textureRecord(texture, title, channel.map, path));
        this.link(video, texture);
        this.link(texture, id, mapProperty(material, name as ChannelName));
        if (
          channel.map.invert ||
          channel.map.gain !== 1 ||
          channel.map.offset !== 0 ||
          (channel.map.strength ?? 1) !== 1 ||
          channel.map.range
        )
          this.losses.add({ code: 'fbx.inverted', material: material.key, channel: name as ChannelName });
        if (!['rgb', name === 'opacity' ? 'a' : 'r'].includes(channel.map.component))
          this.losses.add({ code: 'fbx.component', material: material.key, channel: name as ChannelName });
        if (channel.map.wrap.includes('mirror'))
          this.losses.add({ code: 'fbx.mirror', material: material.key, channel: name as ChannelName });
      }
    }
  }

  private addVideo(title: string, path: string, content: Uint8Array | null): number {
    const id = this.newId();
    this.add(videoRecord(id, title, path, content));
    return id;
  }

  private addNodes(): void {
    const { nodes, cameras, lights } = this.document;
    for (const loss of partsUnsaid(this.document, 'FBX', { showsHidden: null })) this.losses.add(loss);
    for (const loss of coloursUnsaid(this.document, 'FBX')) this.losses.add(loss);
    for (const part of shearedNodes(this.document)) this.losses.add({ code: 'fbx.shear', part });
    nodes.forEach((node) => {
      const id = this.newId();
      this.models.push(id);
      this.add(modelRecord(node, id));
      this.link(id, node.parent < 0 ? 0 : this.models[node.parent]);
      const attributeId = this.newId();
      const attribute = attributeRecord(node, cameras, lights, attributeId);
      if (attribute) {
        this.add(attribute);
        this.link(attributeId, id);
      }
      this.linkMaterials(node, id);
    });
  }

  /** Slots are numbered by the order of links. */
  private linkMaterials(node: SceneNode, id: number): void {
    if (node.mesh < 0) return;
    for (const index of node.materials) if (index >= 0) this.link(this.materials[index], id);
  }

  private addGeometry(): void {
    this.document.meshes.forEach((mesh, index) => {
      const users = this.document.nodes.flatMap((node, i) => (node.mesh === index ? [i] : []));
      for (const sharing of this.byOffset(users)) {
        const id = this.newId();
        this.add(geometryRecord(mesh, id));
        for (const user of sharing) this.link(id, this.models[user]);
        this.addSkin(index, id, sharing[0]);
        this.addShapes(index, id, sharing);
      }
    });
  }

  /** Nodes whose geometry is offset alike: some readers move what nodes share by the offset of one of them. */
  private byOffset(users: readonly number[]): number[][] {
    const groups = new Map<string, number[]>();
    for (const user of users) {
      const { geometricTranslation, geometricRotation, geometricScale } = this.document.nodes[user].transform;
      const key = JSON.stringify([geometricTranslation, geometricRotation, geometricScale]);
      const group = groups.get(key);
      if (group) group.push(user);
      else groups.set(key, [user]);
    }
    return [...groups.values()];
  }

  private addSkin(meshIndex: number, geometryId: number, nodeIndex: number): void {
    const { influences } = this.document.meshes[meshIndex];
    const node = this.document.nodes[nodeIndex];
    const skin = this.document.skins[node.skin];
    if (!influences || !skin) return;
    const skinId = this.newId();
    this.add(
      object('Deformer', skinId, { name: skin.name, subclass: 'Skin' }, [
        record('Version', [I(101)]),
        record('Link_DeformAcuracy', [D(50)]),
      ]),
    );
    this.link(skinId, geometryId);
    const perJoint: { indices: number[]; weights: number[] }[] = skin.joints.map(() => ({
      indices: [],
      weights: [],
    }));
    for (let point = 0; point + 1 < influences.starts.length; point += 1) {
      for (let i = influences.starts[point]; i < influences.starts[point + 1]; i += 1) {
        const list = perJoint[influences.joints[i]];
        list?.indices.push(point);
        list?.weights.push(influences.weights[i]);
      }
    }
    const meshWorld = multiply(this.worlds[nodeIndex], geometricMatrix(node.transform));
    skin.joints.forEach((joint, j) => {
      const bind = skin.inverseBind.slice(j * 16, j * 16 + 16);
      const cluster = this.newId();
      this.add(
        object(
          'Deformer',
          cluster,
          { name: this.document.nodes[joint].name, subclass: 'Cluster', className: 'SubDeformer' },
          [
            record('Version', [I(100)]),
            record('UserData', [S(''), S('')]),
            ...(perJoint[j].indices.length > 0
              ? [integers('Indexes', perJoint[j].indices), doubles('Weights', perJoint[j].weights)]
              : []),
            doubles('Transform', bind),
            doubles('TransformLink', multiply(meshWorld, invertAffine(bind))),
          ],
        ),
      );
      this.link(cluster, skinId);
      this.link(this.models[joint], cluster);
    });
  }

  private addShapes(meshIndex: number, geometryId: number, users: number[]): void {
    const { shapes, name } = this.document.meshes[meshIndex];
    if (shapes.length === 0) return;
    const deformer = this.newId();
    this.add(object('Deformer', deformer, { name, subclass: 'BlendShape' }, [record('Version', [I(100)])]));
    this.link(deformer, geometryId);
    const channels = shapes.map((shape) => {
      const [channel, geometry] = [this.newId(), this.newId()];
      const children = [
        record('Version', [I(100)]),
        record('DeformPercent', [D(shape.weight * 100)]),
        doubles('FullWeights', [100]),
        properties70([numberEntry('DeformPercent', shape.weight * 100)]),
      ];
      this.add(
        object(
          'Deformer',
          channel,
          { name: shape.name, subclass: 'BlendShapeChannel', className: 'SubDeformer' },
          children,
        ),
      );
      this.add(shapeRecord(shape, geometry));
      this.link(channel, deformer);
      this.link(geometry, channel);
      return channel;
    });
    for (const user of users) this.shapeChannels.set(user, channels);
  }

  private addClips(): void {
    const sink: ClipSink = {
      nodes: this.document.nodes,
      newId: () => this.newId(),
      add: (node) => this.add(node),
      link: (child, parent, property) => this.link(child, parent, property),
      modelId: (node) => this.models[node],
      shapeChannelId: (node, shape) => this.shapeChannels.get(node)?.[shape],
    };
    for (const clip of this.document.clips) writeClip(clip, sink);
  }
}

function globalSettings({ axes, metresPerUnit }: SceneDocument): FbxNode {
  return record(
    'GlobalSettings',
    [],
    [
      record('Version', [I(1000)]),
      properties70([
        integerEntry('UpAxis', axes.up.axis),
        integerEntry('UpAxisSign', axes.up.sign),
        integerEntry('FrontAxis', axes.front.axis),
        integerEntry('FrontAxisSign', axes.front.sign),
        integerEntry('CoordAxis', axes.right.axis),
        integerEntry('CoordAxisSign', axes.right.sign),
        integerEntry('OriginalUpAxis', axes.up.axis),
        integerEntry('OriginalUpAxisSign', axes.up.sign),
        doubleEntry('UnitScaleFactor', metresPerUnit * 100),
        doubleEntry('OriginalUnitScaleFactor', metresPerUnit * 100),
        enumEntry('TimeMode', 0),
        entry('TimeSpanStart', ['KTime', 'Time', ''], L(0)),
      ]),
    ],
  );
}

function definitions(objects: FbxNode[]): FbxNode {
  const counts = new Map<string, number>([['GlobalSettings', 1]]);
  for (const { name } of objects) counts.set(name, (counts.get(name) ?? 0) + 1);
  return record(
    'Definitions',
    [],
    [
      record('Version', [I(100)]),
      record('Count', [I(objects.length + 1)]),
      ...[...counts].map(([kind, count]) => record('ObjectType', [S(kind)], [record('Count', [I(count)])])),
    ],
  );
}
