export { type Acceptance, acceptanceOf } from "./cast/acceptance.ts";
export { type Baked, bakedOnto } from "./cast/bake.ts";
export { characterIn } from "./cast/characterIn.ts";
export { carriedOnto } from "./cast/onto.ts";
export { type BodyGuess, type BodyMap, mapBody } from "./character/bodyMap.ts";
export type { Character } from "./character/character.ts";
export { type ContactPoint, pointLabel } from "./character/contactPoints.ts";
export { jointLabels } from "./character/jointLabels.ts";
export { legLengthOf } from "./character/legLength.ts";
export {
  type JointLimit,
  type JointRange,
  LIMIT_WAYS,
  type LimitWay,
  measuredLimits,
} from "./character/limits.ts";
export { markersOf } from "./character/markers.ts";
export { restSurface, solesOnSkin } from "./character/onSkin.ts";
export { allParts, findPart, type PartRef, type Parts, partFromKey, partInWords, partKey, partName, partOf } from "./character/parts.ts";
export { JOINT_NAMES, type JointNames, renamed } from "./character/renamed.ts";
export { likePose, type RestPose, restPoseOf } from "./character/restPose.ts";
export type { Rig } from "./character/rig.ts";
export { FINGERS, ROLES, type Role, roleLabel, type Side } from "./character/roles.ts";
export { faceAt, type Skin, type SkinFace, type SkinMaterial, type SkinPart, skinnedVertices } from "./character/skin.ts";
export { hanimNames, vrmName } from "./character/vocabularies.ts";
export type { Volume } from "./character/volumes.ts";
export { wornJoints } from "./character/worn.ts";
export type { FindingKind } from "./checkup/findingKinds.ts";
export { type Finding, findingsInTime, findingsOf, sourceInTime, treatedFindings } from "./checkup/findings.ts";
export { measure, measureSteps, type Totals, totalsOf } from "./checkup/measures.ts";
export { poseMovedCm } from "./checkup/poseMoved.ts";
export { type CheckReport, checkReport } from "./checkup/report.ts";
export { TOLERANCE } from "./checkup/tolerances.ts";
export { changedWindows, type FrameWindow } from "./clip/changes.ts";
export { type Clip, ClipDraft, clipSeconds, cropClip, isFiniteClip, readPosition, readRotation, rotationBetween, type Track } from "./clip/clip.ts";
export { findSeams, type SeamChoice, seamFigures } from "./combine/seam.ts";
export { type Contact, type ContactEdit, makeContactEdit } from "./contacts/contact.ts";
export type { Support } from "./contacts/find.ts";
export { PointTracks } from "./contacts/pointTracks.ts";
export { jointTrack, pointTrack } from "./contacts/tracks.ts";
export { type CopiedPatch, CopyError, copyPatches, type RangePlacing } from "./copying/copyPatches.ts";
export { framesInStep, type InStep } from "./copying/inStep.ts";
export { type MotionFigures, type Outcome, outcomeOf } from "./copying/outcome.ts";
export { type PhaseMap, phaseMap } from "./copying/phaseMap.ts";
export { fittedToLength, withClipSwapped } from "./copying/swapClip.ts";
export { ANGLE_OF_AXIS, angleCurves, keptAngleCurves } from "./curves/angles.ts";
export { curveValue, type Key, sameKeyMoment, TANGENTS, type Tangent, withKey } from "./curves/keys.ts";
export { type Gauge, gaugeOf, type Measure, measuredCurve, measureLabel, measureUnit } from "./curves/measured.ts";
export { bridgeSamples, delaySamples, flattenSamples, scaleSamples, shiftSamples, smoothSamples, stretchSamples } from "./curves/operations.ts";
export { degreesWithin, thinSamples } from "./curves/thin.ts";
export { bestCycle, type Cycle, type CycleMap, cycleBetween, cycleMap, findCycles, strideSeconds } from "./cycles/find.ts";
export { type CharacterNotes, characterNotesSchema, emptyNotes, readCharacterNotes } from "./documents/characterNotes.ts";
export { DocumentError } from "./documents/errors.ts";
export { namedByBody } from "./documents/namedParts.ts";
export {
  activePatches,
  makePatch,
  type Patch,
} from "./documents/patch.ts";
export { checkRecipe, checkWork, type DocumentContext, problemOf, readRecipe, readWork } from "./documents/read.ts";
export { checkShape } from "./documents/shape.ts";
export { movedPatch } from "./documents/times.ts";
export { DEFAULT_RECIPE, emptyWork, RECIPE_FORMAT, type Recipe, WORK_FORMAT, type Work } from "./documents/work.ts";
export { clocksOf, type Evaluation, Evaluator, type Stage } from "./evaluate.ts";
export { MissingSource, MotionFormatError, PatchError } from "./formats/errors.ts";
export {
  type ByteSource,
  type FileBytes,
  type FileReading,
  type KeptReading,
  type KeyTolerance,
  type Marker,
  type MotionFile,
  readingOf,
  type WriteOptions,
} from "./formats/format.ts";
export {
  checkHead,
  clipNameOf,
  formatToRead,
  formatToWrite,
  HEAD_BYTES,
  READ_ENDINGS,
  readMotion,
  readyToRead,
  setDracoBinary,
  skinOfFile,
  WRITE_ENDINGS,
  WRITE_ENDINGS_TEXT,
  writeFresh,
  writeLike,
} from "./formats/index.ts";
export { type Ground, groundHeight, groundNormal, LEVEL_GROUND, planeHeight } from "./ground/ground.ts";
export { type Footfall, shapeAhead, shapesFound } from "./ground/proposeShapes.ts";
export { type GroundShape, groundShapeSchema, placeOnShape, profileCorners, shapeLength, shapeProfile } from "./ground/shapes.ts";
export { FLAT_HAND, fingerJoints, type HandShape, handRotations, handShapeSchema, READY_SHAPES, type ReadyShape, readyShape } from "./hands/handShape.ts";
export { clipWorld, type WorldClip } from "./kinematics/forward.ts";
export { PoseFrame } from "./kinematics/poseFrame.ts";
export { makeTwoBoneReach, reachTwoBone } from "./kinematics/twoBone.ts";
export { axisAngleQuatFlat, conjugateQuatFlat, logQuatFlat, multiplyQuatFlat, quatAngleFlat, rotateVecFlat } from "./math/quat.ts";
export { quinticHermite, RAMP_SHAPES, rangeWeight } from "./math/ramp.ts";
export { composed, rotationRadians } from "./math/rotationVectors.ts";
export { mirrorPairs } from "./mirror/pairs.ts";
export type { GroundTravel, Motion } from "./motion.ts";
export { type AmplitudeSettings, type MotionRange, rangeOfMotion } from "./patches/amplitude.ts";
export { guideTable } from "./patches/guideTable.ts";
export type { HandShapeSettings } from "./patches/handShape.ts";
export { type AnyPatchKind, PATCH_KINDS, type PatchNote, patchKind, registered, registerForTest } from "./patches/index.ts";
export type { JoinSettings } from "./patches/join.ts";
export { type FieldHint, PATCH_GROUPS, type PatchGroup, type Posing } from "./patches/kind.ts";
export type { Channel, ChannelTarget, LayerSettings } from "./patches/layer.ts";
export { channelKeys, withChannel } from "./patches/layerKeys.ts";
export type { LoopSettings } from "./patches/loop.ts";
export type { MixSettings } from "./patches/mix.ts";
export type { RetimeSettings } from "./patches/retime.ts";
export { landingsOf, type SettleSettings } from "./patches/settle.ts";
export type { TouchUpSettings } from "./patches/touchUp.ts";
export type { TravelSettings } from "./patches/travel.ts";
export { contactRamps } from "./plants/plants.ts";
export { describeEdit, type Edit, type Hold, type Pivot, type PoseEdit } from "./pose/edits.ts";
export type { EditView } from "./pose/editView.ts";
export { composeTurns, mergeEdits } from "./pose/mergeEdits.ts";
export { limbJoints, mirroredSet, mirrorPose, pasteEdit, restPose, takePose } from "./pose/poses.ts";
export { headingOf, type Space } from "./pose/spaces.ts";
export { type StoredPose, storedPoseSchema, upgradePose1 } from "./pose/storedPose.ts";
export { previewFrame } from "./preview.ts";
export type { Landing } from "./settle/landings.ts";
export { lowPass, smoothEnvelope } from "./signal/filters.ts";
export { quantile } from "./signal/robust.ts";
export { identityRest, restWorld, type Skeleton, tipOf } from "./skeleton/skeleton.ts";
export { sourceOf } from "./sourceOf.ts";
export { type ClipKey, clipKeyOf, clipRef, oneSource, type Source, type SourceRef, sourceKeyOf, sourceRefSchema } from "./sources.ts";
export { CircularSource, type Supplied, SuppliedSources } from "./suppliedSources.ts";
export { type Accent, accentsOf } from "./time/accents.ts";
export {
  type Beat,
  type Between,
  beatProblem,
  beatWarp,
  madeEven,
  stretchSpeeds,
  withBeat,
  withHold,
  withMovedBeat,
  withStretchLength,
  withTakenOut,
} from "./time/beats.ts";
export { carriedAlong, type SourceTime } from "./time/carriedAlong.ts";
export {
  type Clocks,
  intoPatch,
  intoSource,
  lastStage,
  momentsBetween,
  outOfPatch,
  outOfSource,
  receivedSeconds,
  sameClock,
  spansBetween,
  spansOutOfPatch,
} from "./time/moments.ts";
export { atRate, throughWarp } from "./time/through.ts";
export { cropWarp, frameOf, inputAt, outputBeyond, type TimeWarp } from "./time/warp.ts";
export { figureClip } from "./travel/figureClip.ts";
export { type GaitFigures, type MeasuredGait, measureGait, strideSpeed, strideSpeedPerFrame, strideTravel } from "./travel/gaitFigures.ts";
