import type { AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import { colourAlbedoRange } from './colour/colourAlbedoRange.ts';
import { colourColourAsData } from './colour/colourColourAsData.ts';
import { colourDataAsColour } from './colour/colourDataAsColour.ts';
import { colourEncodedTwice } from './colour/colourEncodedTwice.ts';
import { colourFloatUnsure, colourPrimariesUnstated } from './colour/colourFloatUnsure.ts';
import { colourLinearAsEncoded } from './colour/colourLinearAsEncoded.ts';
import { colourMixedTags } from './colour/colourMixedTags.ts';
import { colourPrimaries } from './colour/colourPrimaries.ts';
import { createContext } from './context.ts';
import { type Finding, SEVERITIES } from './finding.ts';
import type { Check, FindingContext } from './findingContext.ts';
import { intakeRemembered } from './intake/intakeRemembered.ts';
import { readRemark } from './intake/readRemark.ts';
import { type Knowledge, NOTHING_KNOWN } from './knowledge.ts';
import { linkAmbiguous } from './links/linkAmbiguous.ts';
import { linkCaseOnly } from './links/linkCaseOnly.ts';
import { linkMissing } from './links/linkMissing.ts';
import { linkOutside } from './links/linkOutside.ts';
import { linkSidecar } from './links/linkSidecar.ts';
import { linkUnreadable } from './links/linkUnreadable.ts';
import { mapUnused } from './links/mapUnused.ts';
import { tilesGap } from './links/tilesGap.ts';
import { materialDoubled } from './parts/materialDoubled.ts';
import { materialUnused } from './parts/materialUnused.ts';
import { partEmpty } from './parts/partEmpty.ts';
import { partNameDoubled } from './parts/partNameDoubled.ts';
import { partNoMaterial } from './parts/partNoMaterial.ts';
import { shapeBrokenNormals } from './parts/shapeBrokenNormals.ts';
import { shapeDegenerate } from './parts/shapeDegenerate.ts';
import { shapeDoubledFaces } from './parts/shapeDoubledFaces.ts';
import { shapeFarOff } from './parts/shapeFarOff.ts';
import { shapeInsideOut } from './parts/shapeInsideOut.ts';
import { shapeMirrored } from './parts/shapeMirrored.ts';
import { shapeMixedWinding } from './parts/shapeMixedWinding.ts';
import { shapeNoNormals } from './parts/shapeNoNormals.ts';
import { shapeNoUv } from './parts/shapeNoUv.ts';
import { shapePivotFar } from './parts/shapePivotFar.ts';
import { shapeSizeImplausible } from './parts/shapeSizeImplausible.ts';
import { shapeUvCollapsed } from './parts/shapeUvCollapsed.ts';
import { shapeUvOutside } from './parts/shapeUvOutside.ts';
import { normalDirection } from './slots/normalDirection.ts';
import { normalNotUnit } from './slots/normalNotUnit.ts';
import { setAmbiguous } from './slots/setAmbiguous.ts';
import { slotBumpAsNormal } from './slots/slotBumpAsNormal.ts';
import { slotCandidate } from './slots/slotCandidate.ts';
import { slotConstant } from './slots/slotConstant.ts';
import { slotContradiction } from './slots/slotContradiction.ts';
import { slotGlossAsRoughness } from './slots/slotGlossAsRoughness.ts';
import { slotLacking } from './slots/slotLacking.ts';
import { slotNormalAsBump } from './slots/slotNormalAsBump.ts';
import { slotOtherModel } from './slots/slotOtherModel.ts';
import { slotPackedWhole } from './slots/slotPackedWhole.ts';
import { slotPixels } from './slots/slotPixels.ts';
import { slotWrongModel } from './slots/slotWrongModel.ts';
import { alphaFringe } from './surface/alphaFringe.ts';
import { alphaIgnored } from './surface/alphaIgnored.ts';
import { alphaInverted } from './surface/alphaInverted.ts';
import { alphaInvisible } from './surface/alphaInvisible.ts';
import { alphaMaskWouldDo } from './surface/alphaMaskWouldDo.ts';
import { alphaNeedless } from './surface/alphaNeedless.ts';
import { alphaOneSided } from './surface/alphaOneSided.ts';
import { alphaPremultiplied } from './surface/alphaPremultiplied.ts';
import { glassMetal } from './surface/glassMetal.ts';
import { glassOpaque } from './surface/glassOpaque.ts';
import { paletteFiltered } from './surface/paletteFiltered.ts';
import { surfaceEmissionDark } from './surface/surfaceEmissionDark.ts';
import { surfaceGlossLacking } from './surface/surfaceGlossLacking.ts';
import { surfaceHeightTooStrong } from './surface/surfaceHeightTooStrong.ts';
import { surfaceIndexImplausible } from './surface/surfaceIndexImplausible.ts';
import { surfaceLegacyOnly } from './surface/surfaceLegacyOnly.ts';
import { surfaceMapSilenced } from './surface/surfaceMapSilenced.ts';
import { surfaceMetalHalf } from './surface/surfaceMetalHalf.ts';
import { surfaceOcclusionBaked } from './surface/surfaceOcclusionBaked.ts';
import { surfaceSpecularTooStrong } from './surface/surfaceSpecularTooStrong.ts';
import { surfaceTint } from './surface/surfaceTint.ts';

/** Every check, in the order in which people work. A new check is one file and one line here. */
export const CHECKS: readonly Check[] = [
  readRemark,
  intakeRemembered,
  shapeInsideOut,
  shapeMixedWinding,
  shapeMirrored,
  shapeNoUv,
  shapeUvCollapsed,
  shapeUvOutside,
  shapeNoNormals,
  shapeBrokenNormals,
  shapeDegenerate,
  shapeDoubledFaces,
  shapeSizeImplausible,
  shapeFarOff,
  shapePivotFar,
  partNoMaterial,
  partNameDoubled,
  partEmpty,
  materialUnused,
  materialDoubled,
  setAmbiguous,
  linkMissing,
  linkAmbiguous,
  linkOutside,
  linkCaseOnly,
  linkUnreadable,
  tilesGap,
  linkSidecar,
  mapUnused,
  slotPackedWhole,
  slotNormalAsBump,
  slotBumpAsNormal,
  slotGlossAsRoughness,
  slotContradiction,
  slotPixels,
  normalDirection,
  normalNotUnit,
  slotCandidate,
  slotLacking,
  slotOtherModel,
  slotWrongModel,
  slotConstant,
  colourDataAsColour,
  colourColourAsData,
  colourEncodedTwice,
  colourLinearAsEncoded,
  colourPrimaries,
  colourFloatUnsure,
  colourPrimariesUnstated,
  colourMixedTags,
  colourAlbedoRange,
  surfaceTint,
  surfaceMapSilenced,
  surfaceIndexImplausible,
  surfaceMetalHalf,
  surfaceSpecularTooStrong,
  surfaceLegacyOnly,
  surfaceGlossLacking,
  surfaceHeightTooStrong,
  surfaceOcclusionBaked,
  paletteFiltered,
  surfaceEmissionDark,
  alphaInvisible,
  alphaInverted,
  alphaIgnored,
  alphaNeedless,
  alphaMaskWouldDo,
  alphaOneSided,
  alphaPremultiplied,
  alphaFringe,
  glassMetal,
  glassOpaque,
];

/**
 * Runs every check. Findings come sorted by severity, then in the order of the checks. Without the pixels'
 * facts the checks that need them stay silent.
 */
export function findFindings(
  source: AssetSource,
  state: AssetState,
  images: readonly ParcelImage[],
  knowledge: Knowledge = NOTHING_KNOWN,
): Finding[] {
  return runChecks(createContext(source, state, images, knowledge));
}

/** The same, for who has gathered the context already. */
export function runChecks(context: FindingContext): Finding[] {
  return CHECKS.flatMap((check) => check(context)).sort(
    (a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity),
  );
}

/** How many findings there are of each severity. */
export interface SeverityCounts {
  error: number;
  warning: number;
  note: number;
}

/** Counts findings by severity. */
export function countSeverities(findings: readonly Finding[]): SeverityCounts {
  const counts: SeverityCounts = { error: 0, warning: 0, note: 0 };
  for (const finding of findings) counts[finding.severity] += 1;
  return counts;
}
