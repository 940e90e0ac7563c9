/**
 * The event log as JSON Lines, runs that play again, and where two runs part.
 * @module keen-sentry/record
 */
export { type SaveHeader, saveHeader } from '../core/save/save.ts'
export {
  type ComparedWorld,
  compareLogs,
  compareWorlds,
  differenceText,
  type LogDifference,
  type WorldDifference,
} from './compare.ts'
export {
  INPUT_FORMAT,
  INPUT_VERSION,
  InputLog,
  type InputLogOptions,
  inputsJsonSchema,
  type ReplayedWorld,
  type ReplayResult,
  replay,
} from './inputs.ts'
export {
  actionLine,
  EventLog,
  eventLine,
  fillJointTelling,
  fillTelling,
  headerLine,
  jointLine,
  LOG_FORMAT,
  LOG_VERSION,
  type LogAction,
  type LogEnd,
  type LogEvent,
  type LogHeader,
  type LogJoint,
  type LogLine,
  type LogRay,
  type LogState,
  rayLine,
  stateLine,
} from './log.ts'
export { logJsonSchema, readLog } from './schema.ts'
