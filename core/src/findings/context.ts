import type { AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import type { FactsByHash } from '../asset/collectFacts.ts';
import { isMade } from '../asset/madeFiles.ts';
import { ownImages } from '../asset/ownImages.ts';
import { type Suggestion, suggestAssignments } from '../asset/suggest.ts';
import { buildFileIndex } from '../links/fileIndex.ts';
import { rankCandidates } from '../links/rank.ts';
import { findSidecars } from '../links/sidecars.ts';
import { classifyNames } from '../maps/classifyName.ts';
import { type DetectedMap, detectMaps } from '../maps/detectMaps.ts';
import type { ChannelName } from '../scene/material.ts';
import type { FindingContext, MappedSlot } from './finding.ts';
import { judgeSlot } from './slotVerdict.ts';

/** Gathers once what the checks share. */
export function createContext(source: AssetSource, state: AssetState, images: readonly ParcelImage[], facts: FactsByHash): FindingContext {
  const readable = images.filter((image) => image.info);
  const used = new Set(state.images.flatMap((image) => (image.resolved ? [image.resolved] : [])));
  const own = ownImages(source, images).filter(({ path }) => !isMade(path) || used.has(path));
  const ownPaths = new Set(own.map((image) => image.path));
  const seen = readable.filter((image) => ownPaths.has(image.path) || used.has(image.path));
  const paths = seen.map((image) => image.path);
  const detected = new Map<string, DetectedMap>(
    detectMaps(seen.map(({ path, info, sha256 }) => ({ path, info, facts: facts.get(sha256) ?? null }))).map((map) => [map.path, map]),
  );
  const named = new Map(classifyNames(paths).map((found) => [found.path, found]));
  const files = new Map(images.map((image) => [image.path, image]));
  const entries = new Map(state.images.map((image) => [image.key, image]));
  const slots = state.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([channel, content]): MappedSlot[] => {
      const entry = content.map && entries.get(content.map.image);
      if (!content.map || !entry) return [];
      const found = entry.resolved ? files.get(entry.resolved) : undefined;
      const file = found?.info ? found : null;
      const path = file?.path ?? '';
      return [
        {
          material,
          channel: channel as ChannelName,
          content,
          map: content.map,
          entry,
          file,
          facts: (file && facts.get(file.sha256)) ?? null,
          detected: detected.get(path) ?? null,
          named: named.get(path) ?? null,
        },
      ];
    }),
  );
  const index = buildFileIndex(readable);
  const sidecars = findSidecars(
    own.flatMap(({ path, info }) => (info ? [{ path, width: info.width, height: info.height }] : [])),
    used,
  );
  let suggested: readonly Suggestion[] | null = null;
  return {
    source,
    state,
    images,
    own,
    index,
    facts,
    detected,
    named,
    sidecars,
    slots,
    verdictOf: remember((slot) => judgeSlot(slot, slots)),
    candidatesOf: remember((image) => rankCandidates(image.written, source.model, index)),
    suggestions() {
      suggested ??= suggestAssignments({ state, own, detected, sidecars });
      return suggested;
    },
  };
}

/** The same answer for the same thing, worked out when it is first asked for. */
function remember<K extends object, V>(work: (key: K) => V): (key: K) => V {
  const known = new Map<K, V>();
  return (key) => {
    if (!known.has(key)) known.set(key, work(key));
    return known.get(key) as V;
  };
}
