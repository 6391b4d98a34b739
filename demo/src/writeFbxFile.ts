import type { FbxNode, FbxProperty } from '@kinkajou/core/formats/fbx/tree';
import { NAME_SEPARATOR } from '@kinkajou/core/formats/fbx/tree';
import { writeBinaryFbx } from '@kinkajou/core/formats/fbx/writeBinary';
import type { PolygonMesh, Vec3 } from '@kinkajou/core/scene/document';
import type { DemoPart } from './scene.ts';

/** A texture and the property that it feeds. */
export interface FbxTexture {
  /** Classic property that the texture feeds. */
  property: string;
  fileName: string;
  relativeFileName: string;
}

/** A classic material. */
export interface FbxMaterialSpec {
  name: string;
  diffuse: Vec3;
  specular: Vec3;
  exponent: number;
  emissive?: Vec3;
  textures: FbxTexture[];
}

const S = (value: string): FbxProperty => ({ type: 'S', value });
const I = (value: number): FbxProperty => ({ type: 'I', value });
const D = (value: number): FbxProperty => ({ type: 'D', value });
const L = (value: number): FbxProperty => ({ type: 'L', value: BigInt(value) });
const node = (name: string, properties: FbxProperty[] = [], children: FbxNode[] = []): FbxNode => ({
  name,
  properties,
  children,
});
const p70 = (name: string, type: string, label: string, flags: string, ...values: FbxProperty[]) =>
  node('P', [S(name), S(type), S(label), S(flags), ...values]);
const vector = (name: string, type: string, value: Vec3) => p70(name, type, '', 'A', ...value.map(D));

/** Writes parts as a binary FBX 7.4 file in centimetres, Y up; `groups` are nodes that only hold others. */
export function writeFbxFile(
  parts: DemoPart[],
  materials: FbxMaterialSpec[],
  creator: string,
  groups: readonly string[] = [],
): Uint8Array {
  const objects: FbxNode[] = [];
  const links: FbxNode[] = [];
  let nextId = 100_000;
  const newId = () => nextId++;
  const link = (child: number, parent: number, property?: string) =>
    links.push(
      node('C', [S(property ? 'OP' : 'OO'), L(child), L(parent), ...(property ? [S(property)] : [])]),
    );
  const materialIds = new Map<string, number>();
  for (const spec of materials) {
    const id = newId();
    materialIds.set(spec.name, id);
    objects.push(materialNode(id, spec));
    for (const texture of spec.textures) {
      const [textureId, videoId] = [newId(), newId()];
      objects.push(textureNode(textureId, texture), videoNode(videoId, texture));
      link(videoId, textureId);
      link(textureId, id, texture.property);
    }
  }
  const models = new Map<string, number>();
  for (const name of groups) {
    const id = newId();
    models.set(name, id);
    objects.push(groupNode(id, name));
    link(id, 0);
  }
  for (const part of parts) {
    const [modelId, geometryId] = [newId(), newId()];
    models.set(part.name, modelId);
    objects.push(geometryNode(geometryId, part.mesh), modelNode(modelId, part));
    link(modelId, part.parent ? (models.get(part.parent) ?? 0) : 0);
    link(geometryId, modelId);
    link(materialIds.get(part.material) ?? 0, modelId);
  }
  return writeBinaryFbx({
    version: 7400,
    binary: true,
    nodes: [
      header(creator),
      settings(),
      definitions(objects),
      node('Objects', [], objects),
      node('Connections', [], links),
    ],
  });
}

function header(creator: string): FbxNode {
  return node(
    'FBXHeaderExtension',
    [],
    [node('FBXHeaderVersion', [I(1003)]), node('FBXVersion', [I(7400)]), node('Creator', [S(creator)])],
  );
}

function settings(): FbxNode {
  const int = (name: string, value: number) => p70(name, 'int', 'Integer', '', I(value));
  return node(
    'GlobalSettings',
    [],
    [
      node('Version', [I(1000)]),
      node(
        'Properties70',
        [],
        [
          int('UpAxis', 1),
          int('UpAxisSign', 1),
          int('FrontAxis', 2),
          int('FrontAxisSign', 1),
          int('CoordAxis', 0),
          int('CoordAxisSign', 1),
          p70('UnitScaleFactor', 'double', 'Number', '', D(1)),
        ],
      ),
    ],
  );
}

function definitions(objects: FbxNode[]): FbxNode {
  const kinds = [...new Set(objects.map((object) => object.name))];
  const type = (kind: string) =>
    node(
      'ObjectType',
      [S(kind)],
      [node('Count', [I(objects.filter((object) => object.name === kind).length)])],
    );
  return node(
    'Definitions',
    [],
    [node('Version', [I(100)]), node('Count', [I(objects.length)]), ...kinds.map(type)],
  );
}

function materialNode(id: number, spec: FbxMaterialSpec): FbxNode {
  return node(
    'Material',
    [L(id), S(`${spec.name}${NAME_SEPARATOR}Material`), S('')],
    [
      node('Version', [I(102)]),
      node('ShadingModel', [S('phong')]),
      node(
        'Properties70',
        [],
        [
          vector('DiffuseColor', 'Color', spec.diffuse),
          vector('SpecularColor', 'Color', spec.specular),
          p70('ShininessExponent', 'Number', '', 'A', D(spec.exponent)),
          vector('TransparentColor', 'Color', [0, 0, 0]),
          p70('TransparencyFactor', 'Number', '', 'A', D(1)),
          ...(spec.emissive ? [vector('EmissiveColor', 'Color', spec.emissive)] : []),
        ],
      ),
    ],
  );
}

function textureNode(id: number, texture: FbxTexture): FbxNode {
  const name = texture.relativeFileName.replace(/^.*[\\/]/, '').replace(/\.\w+$/, '');
  return node(
    'Texture',
    [L(id), S(`${name}${NAME_SEPARATOR}Texture`), S('')],
    [
      node('Type', [S('TextureVideoClip')]),
      node('Version', [I(202)]),
      node('TextureName', [S(`${name}${NAME_SEPARATOR}Texture`)]),
      node('Properties70', [], [p70('UVSet', 'KString', '', '', S('map1'))]),
      node('FileName', [S(texture.fileName)]),
      node('RelativeFilename', [S(texture.relativeFileName)]),
    ],
  );
}

function videoNode(id: number, texture: FbxTexture): FbxNode {
  const name = texture.relativeFileName.replace(/^.*[\\/]/, '');
  return node(
    'Video',
    [L(id), S(`${name}${NAME_SEPARATOR}Video`), S('Clip')],
    [
      node('Type', [S('Clip')]),
      node('FileName', [S(texture.fileName)]),
      node('RelativeFilename', [S(texture.relativeFileName)]),
    ],
  );
}

function modelNode(id: number, part: DemoPart): FbxNode {
  return node(
    'Model',
    [L(id), S(`${part.name}${NAME_SEPARATOR}Model`), S('Mesh')],
    [
      node('Version', [I(232)]),
      node(
        'Properties70',
        [],
        [
          vector('Lcl Translation', 'Lcl Translation', part.translation ?? [0, 0, 0]),
          vector('Lcl Rotation', 'Lcl Rotation', part.rotation ?? [0, 0, 0]),
          vector('Lcl Scaling', 'Lcl Scaling', [1, 1, 1]),
        ],
      ),
    ],
  );
}

function groupNode(id: number, name: string): FbxNode {
  return node(
    'Model',
    [L(id), S(`${name}${NAME_SEPARATOR}Model`), S('Null')],
    [node('Version', [I(232)]), node('Properties70', [], [])],
  );
}

function geometryNode(id: number, mesh: PolygonMesh): FbxNode {
  const [uv, normal] = [mesh.uvSets[0], mesh.normals];
  if (!uv?.index || !normal?.index) throw new Error(`${mesh.name} needs indexed UVs and normals`);
  const ends = Int32Array.from(mesh.faceCorners);
  let at = 0;
  for (const count of mesh.faceCounts) {
    at += count;
    ends[at - 1] = ~ends[at - 1];
  }
  const doubles = (name: string, values: ArrayLike<number>) =>
    node(name, [{ type: 'd', value: Float64Array.from(values) }]);
  const ints = (name: string, values: ArrayLike<number>) =>
    node(name, [{ type: 'i', value: Int32Array.from(values) }]);
  const layer = (name: string, children: FbxNode[]) =>
    node(
      name,
      [I(0)],
      [
        node('Version', [I(101)]),
        node('Name', [S('map1')]),
        node('MappingInformationType', [S('ByPolygonVertex')]),
        node('ReferenceInformationType', [S('IndexToDirect')]),
        ...children,
      ],
    );
  const element = (type: string) =>
    node('LayerElement', [], [node('Type', [S(type)]), node('TypedIndex', [I(0)])]);
  return node(
    'Geometry',
    [L(id), S(`${mesh.name}${NAME_SEPARATOR}Geometry`), S('Mesh')],
    [
      doubles('Vertices', mesh.points),
      ints('PolygonVertexIndex', ends),
      node('GeometryVersion', [I(124)]),
      layer('LayerElementNormal', [doubles('Normals', normal.values), ints('NormalsIndex', normal.index)]),
      layer('LayerElementUV', [doubles('UV', uv.values), ints('UVIndex', uv.index)]),
      node(
        'LayerElementMaterial',
        [I(0)],
        [
          node('Version', [I(101)]),
          node('Name', [S('')]),
          node('MappingInformationType', [S('AllSame')]),
          node('ReferenceInformationType', [S('IndexToDirect')]),
          ints('Materials', [0]),
        ],
      ),
      node(
        'Layer',
        [I(0)],
        [
          node('Version', [I(100)]),
          element('LayerElementNormal'),
          element('LayerElementMaterial'),
          element('LayerElementUV'),
        ],
      ),
    ],
  );
}
