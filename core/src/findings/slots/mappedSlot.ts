import type { AssetImage, ParcelImage } from '../../asset/asset.ts';
import type { NameClass } from '../../maps/classifyName.ts';
import type { DetectedMap } from '../../maps/detectMaps.ts';
import type { PixelFacts } from '../../maps/pixelFacts.ts';
import type { Channel, ChannelName, MapUse, Material } from '../../scene/material.ts';

/** One slot that reads an image, with all that is known of the image. */
export interface MappedSlot {
  material: Material;
  channel: ChannelName;
  content: Channel;
  map: MapUse;
  entry: AssetImage;
  /** Null while the image is missing or cannot be read. */
  file: ParcelImage | null;
  /** Null where the pixels were not looked at. */
  facts: PixelFacts | null;
  /** By name, siblings and pixels; null without a file. */
  detected: DetectedMap | null;
  /** By the words of the name alone. */
  named: NameClass | null;
}
