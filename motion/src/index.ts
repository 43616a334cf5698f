export { type BodyGuess, type BodyMap, type BodyOverrides, mapBody } from "./character/bodyMap.ts";
export { type Character, characterOf } from "./character/character.ts";
export { type ContactPoint, legsOf, pointLabel } from "./character/contactPoints.ts";
export { allParts, findPart, type PartRef, type Parts, partFromKey, partInWords, partKey, partName, partOf, samePart } from "./character/parts.ts";
export { type Rig, type RigLimb, rigOf } from "./character/rig.ts";
export { FINGERS, isRole, otherSide, ROLES, type Role, roleLabel, SIDES, type Side } from "./character/roles.ts";
export type { Volume } from "./character/volumes.ts";
export { FINDING_KINDS, type FindingKind } from "./checkup/findingKinds.ts";
export { type Finding, findingsOf, sourceInTime, treatedFindings } from "./checkup/findings.ts";
export { type JointEvent, type Measures, measure, type SpanMeasure, type Totals, totalsOf } from "./checkup/measures.ts";
export { type CheckReport, checkReport } from "./checkup/report.ts";
export { LOOP_GAP_DEGREES, TOLERANCE } from "./checkup/tolerances.ts";
export { jointLabels } from "./checkup/wording.ts";
export {
  CHUNK_FRAMES,
  CHUNK_MASK,
  CHUNK_SHIFT,
  type Clip,
  ClipDraft,
  changedFrames,
  clipSeconds,
  cropClip,
  flatTrack,
  isFiniteClip,
  readPose,
  readPosition,
  readRotation,
  resampleClip,
  rotationBetween,
  type Track,
} from "./clip/clip.ts";
export { type Contact, type ContactEdit, type ContactOn, contactEditSchema, overlap } from "./contacts/contact.ts";
export { findContacts, type Grounding } from "./contacts/find.ts";
export { PointTracks } from "./contacts/pointTracks.ts";
export { type JointTrack, jointTrack, pointTrack } from "./contacts/tracks.ts";
export { ANGLE_OF_AXIS, ANGLE_ORDER, angleCurves, anglesToQuat, keptAngleCurves } from "./curves/angles.ts";
export { curveValue, type Key, keySchema, sameKeyMoment, TANGENTS, type Tangent, withKey } from "./curves/keys.ts";
export { type Gauge, gaugeOf, type Measure, measuredCurve, measureLabel, measureUnit } from "./curves/measured.ts";
export { bridgeSamples, delaySamples, flattenSamples, scaleSamples, shiftSamples, smoothSamples, stretchSamples } from "./curves/operations.ts";
export { degreesWithin, thinSamples } from "./curves/thin.ts";
export { DocumentError } from "./documents/errors.ts";
export { namedByBody } from "./documents/namedParts.ts";
export { activePatches, makePatch, type Patch, patchSchema } from "./documents/patch.ts";
export { checkWork, type DocumentContext, problemOf, readRecipe, readWork } from "./documents/read.ts";
export { checkShape } from "./documents/shape.ts";
export { mapMoments, movedPatch } from "./documents/times.ts";
export { DEFAULT_RECIPE, emptyWork, RECIPE_FORMAT, type Recipe, recipeSchema, WORK_FORMAT, type Work, workSchema } from "./documents/work.ts";
export { clocksOf, type Evaluation, Evaluator, longestSeconds, type Stage } from "./evaluate.ts";
export { MotionFormatError, PatchError } from "./formats/errors.ts";
export type { Format, MotionFile, ReadOptions, UpAxis } from "./formats/format.ts";
export {
  checkHead,
  clipNameOf,
  FORMATS,
  formatToRead,
  formatToWrite,
  HEAD_BYTES,
  READ_ENDINGS,
  readMotion,
  WRITE_ENDINGS,
  WRITE_ENDINGS_TEXT,
  writeFresh,
  writeLike,
} from "./formats/index.ts";
export { fitGround, type RestPoint } from "./ground/fitGround.ts";
export { type Ground, groundHeight, groundNormal, groundTilt, LEVEL_GROUND, planeGround } from "./ground/ground.ts";
export { FLAT_HAND, fingerJoints, type HandShape, handRotations, handShapeSchema, READY_SHAPES, type ReadyShape, readyShape } from "./hands/handShape.ts";
export { FREE, type Freedom, type Goal, reachBody } from "./kinematics/bodyReach.ts";
export { clipWorld, type WorldClip } from "./kinematics/forward.ts";
export { PoseFrame } from "./kinematics/poseFrame.ts";
export { makeTwoBoneReach, reachTwoBone } from "./kinematics/twoBone.ts";
export { quatToEulerFlat } from "./math/euler.ts";
export {
  axisAngleQuatFlat,
  conjugateQuatFlat,
  expQuatFlat,
  fromToQuatFlat,
  logQuatFlat,
  multiplyQuatFlat,
  normalizeQuatFlat,
  quatAngleFlat,
  rotateVecFlat,
  slerpQuatFlat,
} from "./math/quat.ts";
export { quinticHermite, RAMP_SHAPES, type RampShape, rangeWeight } from "./math/ramp.ts";
export { composed, rotationDegrees, rotationOf, rotationRadians } from "./math/rotationVectors.ts";
export type { LivePlant, Motion } from "./motion.ts";
export { type AmplitudeSettings, type MotionRange, rangeOfMotion } from "./patches/amplitude.ts";
export { guideTable } from "./patches/guideTable.ts";
export type { HandShapeSettings } from "./patches/handShape.ts";
export { type AnyPatchKind, applyPatch, kindOf, PATCH_KINDS, type PatchNote, patchKind, registered, registerForTest } from "./patches/index.ts";
export { definePatch, type FieldHint, type PatchContext, type PatchKind, type Posing, type Sees, THE_MOMENT } from "./patches/kind.ts";
export type { Channel, ChannelTarget, LayerSettings } from "./patches/layer.ts";
export { channelKeys, sameTarget, withChannel } from "./patches/layerKeys.ts";
export type { TouchUpSettings } from "./patches/touchUp.ts";
export type { TrimSettings } from "./patches/trim.ts";
export { contactRamps, limbEnds } from "./plants/plants.ts";
export { PLANT_DEFAULTS, type PlantSettings } from "./plants/settings.ts";
export { solvePlants } from "./plants/solve.ts";
export { pieceOf, standingLimbs } from "./pose/editMotion.ts";
export { describeEdit, type Edit, type Hold, holdSchema, type MoveEdit, type Pivot, type PoseEdit, type TurnEdit } from "./pose/edits.ts";
export type { EditView } from "./pose/editView.ts";
export { composeTurns, mergeEdits } from "./pose/mergeEdits.ts";
export { mirrorJoints, otherRole } from "./pose/mirror.ts";
export { limbJoints, mirroredSet, mirrorPose, type PasteOptions, pasteEdit, restPose, takePose } from "./pose/poses.ts";
export { headingOf, type Space, spaceSchema } from "./pose/spaces.ts";
export { POSE_FORMAT, type StoredPose, storedPoseSchema, upgradePose1 } from "./pose/storedPose.ts";
export { previewFrame } from "./preview.ts";
export { lowPass, smoothEnvelope } from "./signal/filters.ts";
export { quantile } from "./signal/robust.ts";
export { boneLength, childrenOf, identityRest, restWorld, type Skeleton, tipOf } from "./skeleton/skeleton.ts";
export { oneSource, type Source, type SourceRef, type Sources } from "./sources.ts";
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
  stageSeconds,
} from "./time/moments.ts";
export { atRate, throughWarp } from "./time/through.ts";
export { cropWarp, frameOf, framesIn, identityWarp, inputAt, outputSpans, outputsAt, type TimeWarp } from "./time/warp.ts";
