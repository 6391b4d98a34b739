import type { AssetImage, AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import { isMade } from '../asset/madeFiles.ts';
import { ownImages } from '../asset/ownImages.ts';
import { partsOf } from '../asset/parts.ts';
import { portraitIn, portraitsFor } from '../asset/portraits.ts';
import { buildFileIndex } from '../links/fileIndex.ts';
import { type Candidate, rankCandidates } from '../links/rank.ts';
import { findSidecars } from '../links/sidecars.ts';
import { classifyNames } from '../maps/classifyName.ts';
import { type DetectedMap, detectMap } from '../maps/detectMaps.ts';
import { once, remember } from '../remember.ts';
import type { ChannelName } from '../scene/material.ts';
import type { ImageSet } from '../sets/imageSet.ts';
import { formSets } from '../sets/imageSets.ts';
import { matchSets } from '../sets/matchSets.ts';
import { floatColours } from './colour/floatEncoding.ts';
import type { FindingContext } from './findingContext.ts';
import type { Knowledge } from './knowledge.ts';
import type { MappedSlot } from './slots/mappedSlot.ts';
import { resolveSets, type Settlement } from './slots/settlement.ts';
import { judgeSlot } from './slots/slotVerdict.ts';

/** Gathers once what the checks share. */
export function createContext(
  source: AssetSource,
  state: AssetState,
  images: readonly ParcelImage[],
  { facts, house, answers, prefers }: Knowledge,
): FindingContext {
  const readable = images.filter((image) => image.info);
  const used = new Set(state.images.flatMap((image) => (image.resolved ? [image.resolved] : [])));
  const ownFiles = ownImages(source, images).filter(({ path }) => !isMade(path) || used.has(path));
  const ownPaths = new Set(ownFiles.map((image) => image.path));
  const seen = readable.filter((image) => ownPaths.has(image.path) || used.has(image.path));
  const portraitOf = portraitsFor(source);
  const names = classifyNames(
    seen.map(({ path }) => path),
    { house },
  );
  const named = new Map(names.map((nameClass) => [nameClass.path, nameClass]));
  const detected = new Map<string, DetectedMap>(
    seen.map(({ path, info, sha256 }, i) => {
      const known = facts.get(sha256) ?? null;
      const map = detectMap({ path, info, facts: known }, names[i]);
      const shown = known && !used.has(path) && portraitOf(path) === 'own' ? portraitIn(known) : 0;
      return [path, shown > 0 ? asPortrait(map, shown) : map];
    }),
  );
  const files = new Map(images.map((image) => [image.path, image]));
  const entries = new Map(state.images.map((image) => [image.key, image]));
  const slots = state.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([channel, content]): MappedSlot[] => {
      const entry = content.map && entries.get(content.map.image);
      if (!content.map || !entry) return [];
      const parcelImage = entry.resolved ? files.get(entry.resolved) : undefined;
      const file = parcelImage?.info ? parcelImage : null;
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
    ownFiles.flatMap(({ path, info }) => (info ? [{ path, width: info.width, height: info.height }] : [])),
    used,
  );
  const copies = new Set(sidecars.map(({ path }) => path));
  const ranked = remember((image: AssetImage) => rankCandidates(image.written, source.model, index));
  const sets = once(() =>
    formSets({
      maps: [...detected.values()].filter(({ path }) => !copies.has(path) && !isMade(path)),
      files,
      facts,
      prefers,
    }),
  );
  const setsByPath = once(() => {
    const byPath = new Map<string, ImageSet>();
    for (const set of sets())
      for (const { path } of [...set.members.map(({ map }) => map), ...set.spare])
        if (!byPath.has(path)) byPath.set(path, set);
    return byPath;
  });
  const resolvedPath = (key: string) => {
    const image = entries.get(key);
    if (!image) return null;
    const [best] = image.resolved ? [] : ranked(image);
    return image.tiles?.[0]?.path ?? image.resolved ?? (best?.safe ? best.path : null);
  };
  const factsOf = (path: string) => facts.get(files.get(path)?.sha256 ?? '') ?? null;
  const settlement = once((): Settlement => {
    const matching = matchSets({ source, state, sets: sets(), files, facts, house, answers, resolvedPath });
    return resolveSets(matching, { source, state, resolvedPath, factsOf });
  });
  return {
    source,
    state,
    images,
    own: ownFiles,
    index,
    facts,
    detected,
    named,
    sidecars,
    slots,
    verdictOf: remember((slot) => judgeSlot(slot, slots)),
    candidatesOf: remember((image) => withProposal(ranked(image), settlement().links.get(image.key))),
    resolvedPath,
    factsOf,
    sets,
    setOf: (path) => (path === undefined ? undefined : setsByPath().get(path)),
    settlement,
    parts: once(() => partsOf(source, state)),
    floats: once(() => floatColours({ slots, images, facts })),
  };
}

/** A picture of the whole asset is read by no slot; where it might be one, only a person can tell. */
function asPortrait(map: DetectedMap, likeliness: number): DetectedMap {
  if (likeliness === 1) return { ...map, helper: true, readings: [] };
  const evidence = [...map.evidence, 'it may be a picture of the model'];
  return { ...map, confidence: Math.min(map.confidence, 1 - likeliness), contradicted: true, evidence };
}

/** Score of a file that the match of sets gives to a missing image. */
const PROPOSED = 0.92;

/**
 * Candidates by name with what the asset's sets give beside them; a file that is plain by its name stays the
 * first.
 */
function withProposal(
  ranked: readonly Candidate[],
  proposal: { path: string; reason: string; sure: boolean } | undefined,
): readonly Candidate[] {
  if (!proposal || ranked[0]?.safe) return ranked;
  const { path, reason, sure } = proposal;
  const existing = ranked.find((candidate) => candidate.path === path);
  const others = ranked.filter((candidate) => candidate !== existing);
  const score = Math.max(existing?.score ?? 0, sure ? PROPOSED : 0);
  return [
    { path, score, reasons: [...(existing?.reasons ?? []), reason], safe: sure, ofSet: true },
    ...others,
  ];
}
