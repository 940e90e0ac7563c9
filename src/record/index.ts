/** The event log as JSON Lines. */
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
  rayLine,
} from './log.ts'
export { logJsonSchema, readLog } from './schema.ts'
