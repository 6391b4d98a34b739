import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { isColourSpace } from '@kinkajou/core/colour/spaces';
import { fileName } from '@kinkajou/core/parcel/fileSource';
import type { MapUse } from '@kinkajou/core/scene/material';
import { toGltfTransform } from '@kinkajou/core/scene/uvTransform';
import {
  CanvasTexture,
  ClampToEdgeWrapping,
  LinearFilter,
  LinearMipmapLinearFilter,
  MirroredRepeatWrapping,
  NearestFilter,
  NoColorSpace,
  RepeatWrapping,
  SRGBColorSpace,
  Texture,
} from 'three';
import { pictureUrl } from '@/ui/api';
import { loadPicture } from './loadPicture.ts';
import { standIn, type Texel } from './standIn.ts';
import { createAtlas, type TilePicture } from './tileAtlas.ts';

const WRAP = { repeat: RepeatWrapping, clamp: ClampToEdgeWrapping, mirror: MirroredRepeatWrapping };
const VIEW_TEXTURE_SIZE = 2048;

/** What is wanted of a texture. */
export interface TextureWish {
  /** The stored numbers, whatever the colour tag says. */
  raw: boolean;
  /** The channel that reads it, whose image it stands for until that is here. */
  channel: string;
  tiles?: readonly TilePicture[];
}

/** Textures by image and way of reading; shared by materials and freed together. */
export class TextureStore {
  private readonly kept = new Map<string, Texture>();
  private stripes: CanvasTexture | null = null;
  private disposed = false;

  constructor(
    private readonly placeOf: (uvSet: string | null) => number,
    private readonly changed: () => void,
  ) {}

  /** The texture for a use. */
  get(use: MapUse, image: ParcelImage, { raw, channel: read, tiles = [] }: TextureWish): Texture {
    const encoded = image.info?.floating || (!raw && isEncoded(use, image));
    const channel = this.placeOf(use.uvSet);
    const key = JSON.stringify([image.sha256, encoded, channel, use.transform, use.wrap, use.filter, tiles]);
    let texture = this.kept.get(key);
    if (!texture) {
      texture =
        tiles.length > 1 ? createAtlas(tiles, encoded, this.changed) : this.load(image, standIn(read, use));
      texture.flipY = false;
      texture.colorSpace = encoded ? SRGBColorSpace : NoColorSpace;
      if (tiles.length <= 1) {
        texture.wrapS = WRAP[use.wrap[0]];
        texture.wrapT = WRAP[use.wrap[1]];
      }
      texture.anisotropy = 8;
      texture.minFilter = use.filter ? NearestFilter : LinearMipmapLinearFilter;
      texture.magFilter = use.filter ? NearestFilter : LinearFilter;
      if (use.filter) Object.assign(texture, { anisotropy: 1, generateMipmaps: false });
      texture.channel = channel;
      if (use.transform && tiles.length <= 1) {
        const { offset, scale, rotation } = toGltfTransform(use.transform);
        texture.offset.set(...offset);
        texture.repeat.set(...scale);
        texture.rotation = rotation;
      }
      this.kept.set(key, texture);
    }
    return texture;
  }

  /** A plain texel stands for a picture on its way, and stripes for one that does not come, until it does. */
  private load({ path, sha256 }: ParcelImage, texel: Texel): Texture {
    const texture = new Texture();
    texture.image = this.plain(texel);
    texture.needsUpdate = true;
    const show = (picture: HTMLImageElement | HTMLCanvasElement) => {
      // What the card holds has the size of one texel.
      texture.dispose();
      texture.image = picture;
      texture.needsUpdate = true;
      this.changed();
    };
    loadPicture(pictureUrl(sha256, VIEW_TEXTURE_SIZE), {
      name: fileName(path),
      shown: show,
      failed: () => show(this.missing().image as HTMLCanvasElement),
      wanted: () => !this.disposed,
    });
    return texture;
  }

  /** One texel; colours of transparent ones would be lost on a canvas, so that all are whole. */
  private plain([red, green, blue]: Texel): HTMLCanvasElement {
    const canvas = document.createElement('canvas');
    canvas.width = canvas.height = 1;
    const context = canvas.getContext('2d') as CanvasRenderingContext2D;
    context.fillStyle = `rgb(${[red, green, blue].map((component) => Math.round(component * 255)).join(' ')})`;
    context.fillRect(0, 0, 1, 1);
    return canvas;
  }

  /** What stands for an image that is missing: the same stripes as on the board. */
  missing(): Texture {
    if (this.stripes) return this.stripes;
    const canvas = document.createElement('canvas');
    canvas.width = canvas.height = 64;
    const context = canvas.getContext('2d') as CanvasRenderingContext2D;
    context.fillStyle = '#f6ded6';
    context.fillRect(0, 0, 64, 64);
    context.strokeStyle = '#c4604c';
    context.lineWidth = 15;
    for (let x = -64; x <= 128; x += 32) {
      context.beginPath();
      context.moveTo(x, 72);
      context.lineTo(x + 80, -8);
      context.stroke();
    }
    this.stripes = new CanvasTexture(canvas);
    this.stripes.wrapS = this.stripes.wrapT = RepeatWrapping;
    this.stripes.repeat.set(6, 6);
    this.stripes.colorSpace = SRGBColorSpace;
    return this.stripes;
  }

  dispose(): void {
    this.disposed = true;
    for (const texture of this.kept.values()) texture.dispose();
    this.kept.clear();
    this.stripes?.dispose();
  }
}

/**
 * Whether the graphics card decodes the texel as sRGB. Pictures of float images arrive encoded, so that
 * decoding gives the stored numbers again; for a linear tag these are the light. A use with a curve,
 * primaries or exponent of its own is decoded by the shader instead, from the stored numbers.
 */
function isEncoded(use: MapUse, image: ParcelImage): boolean {
  return (image.info?.floating ?? false) || (use.space === 'srgb_rec709_scene' && (use.exponent ?? 1) === 1);
}

/** True where the shader must decode; see {@link isEncoded}. */
export function decodesInShader(use: MapUse, image: ParcelImage): boolean {
  if (!isColourSpace(use.space)) return false;
  if ((use.exponent ?? 1) !== 1) return true;
  return (
    use.space !== 'lin_rec709_scene' && (use.space !== 'srgb_rec709_scene' || (image.info?.floating ?? false))
  );
}
