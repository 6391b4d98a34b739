import type { ChannelName } from './material.ts';

const TITLES: Record<ChannelName, string> = {
  baseColor: 'Base colour',
  metalness: 'Metalness',
  roughness: 'Roughness',
  normal: 'Normal',
  occlusion: 'Occlusion',
  emission: 'Emission',
  opacity: 'Opacity',
  height: 'Height',
  bump: 'Bump',
  glossiness: 'Glossiness',
  specular: 'Specular',
  specularColor: 'Specular colour',
  ior: 'Index',
  transmission: 'Transmission',
  coat: 'Coat',
  coatRoughness: 'Coat roughness',
  sheenColor: 'Sheen colour',
  subsurface: 'Subsurface',
};

/** A channel as the head of a column or a field. */
export function channelTitle(channel: ChannelName): string {
  return TITLES[channel];
}

/** A channel within a sentence; what is no channel of ours stays as it is called. */
export function channelInWords(channel = ''): string {
  if (channel === 'ior') return 'index of refraction';
  return TITLES[channel as ChannelName]?.toLowerCase() ?? channel;
}
