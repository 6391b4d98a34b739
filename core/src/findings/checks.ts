import type { AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import { alphaFringe } from './alphaFringe.ts';
import { alphaIgnored } from './alphaIgnored.ts';
import { alphaInverted } from './alphaInverted.ts';
import { alphaInvisible } from './alphaInvisible.ts';
import { alphaMaskWouldDo } from './alphaMaskWouldDo.ts';
import { alphaNeedless } from './alphaNeedless.ts';
import { alphaOneSided } from './alphaOneSided.ts';
import { alphaPremultiplied } from './alphaPremultiplied.ts';
import { colourAlbedoRange } from './colourAlbedoRange.ts';
import { colourColourAsData } from './colourColourAsData.ts';
import { colourDataAsColour } from './colourDataAsColour.ts';
import { colourEncodedTwice } from './colourEncodedTwice.ts';
import { colourFloatUnsure, colourPrimariesUnstated } from './colourFloatUnsure.ts';
import { colourLinearAsEncoded } from './colourLinearAsEncoded.ts';
import { colourMixedTags } from './colourMixedTags.ts';
import { colourPrimaries } from './colourPrimaries.ts';
import { createContext } from './context.ts';
import { type Finding, SEVERITIES } from './finding.ts';
import type { Check, FindingContext } from './findingContext.ts';
import { glassMetal } from './glassMetal.ts';
import { glassOpaque } from './glassOpaque.ts';
import { intakeRemembered } from './intakeRemembered.ts';
import { type Knowledge, NOTHING_KNOWN } from './knowledge.ts';
import { linkAmbiguous } from './linkAmbiguous.ts';
import { linkCaseOnly } from './linkCaseOnly.ts';
import { linkMissing } from './linkMissing.ts';
import { linkOutside } from './linkOutside.ts';
import { linkSidecar } from './linkSidecar.ts';
import { linkUnreadable } from './linkUnreadable.ts';
import { mapUnused } from './mapUnused.ts';
import { normalDirection } from './normalDirection.ts';
import { normalNotUnit } from './normalNotUnit.ts';
import { paletteFiltered } from './paletteFiltered.ts';
import { readRemark } from './readRemark.ts';
import { setAmbiguous } from './setAmbiguous.ts';
import { slotBumpAsNormal } from './slotBumpAsNormal.ts';
import { slotCandidate } from './slotCandidate.ts';
import { slotConstant } from './slotConstant.ts';
import { slotContradiction } from './slotContradiction.ts';
import { slotGlossAsRoughness } from './slotGlossAsRoughness.ts';
import { slotLacking } from './slotLacking.ts';
import { slotNormalAsBump } from './slotNormalAsBump.ts';
import { slotOtherModel } from './slotOtherModel.ts';
import { slotPackedWhole } from './slotPackedWhole.ts';
import { slotPixels } from './slotPixels.ts';
import { surfaceEmissionDark } from './surfaceEmissionDark.ts';
import { surfaceGlossLacking } from './surfaceGlossLacking.ts';
import { surfaceHeightTooStrong } from './surfaceHeightTooStrong.ts';
import { surfaceIndexImplausible } from './surfaceIndexImplausible.ts';
import { surfaceLegacyOnly } from './surfaceLegacyOnly.ts';
import { surfaceMetalHalf } from './surfaceMetalHalf.ts';
import { surfaceOcclusionBaked } from './surfaceOcclusionBaked.ts';
import { surfaceSpecularTooStrong } from './surfaceSpecularTooStrong.ts';
import { surfaceTint } from './surfaceTint.ts';
import { tilesGap } from './tilesGap.ts';

/** Every check, in the order in which people work. A new check is one file and one line here. */
export const CHECKS: readonly Check[] = [
  readRemark,
  intakeRemembered,
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
 * Runs every check. Findings come sorted by severity, then in the order of the checks. Without the pixels' facts the
 * checks that need them stay silent.
 */
export function findFindings(source: AssetSource, state: AssetState, images: readonly ParcelImage[], knowledge: Knowledge = NOTHING_KNOWN): Finding[] {
  return runChecks(createContext(source, state, images, knowledge));
}

/** The same, for who has gathered the context already. */
export function runChecks(context: FindingContext): Finding[] {
  return CHECKS.flatMap((check) => check(context)).sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity));
}

export interface SeverityCounts {
  error: number;
  warning: number;
  note: number;
}

export function countSeverities(findings: readonly Finding[]): SeverityCounts {
  const counts: SeverityCounts = { error: 0, warning: 0, note: 0 };
  for (const finding of findings) counts[finding.severity] += 1;
  return counts;
}
