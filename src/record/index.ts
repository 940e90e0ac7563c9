/** The event log as JSON Lines. */
export {
  actionLine,
  EventLog,
  eventLine,
  fillTelling,
  headerLine,
  LOG_FORMAT,
  LOG_VERSION,
  type LogAction,
  type LogEnd,
  type LogEvent,
  type LogHeader,
  type LogLine,
  type LogRay,
  rayLine,
} from './log.ts'
export { logJsonSchema, readLog } from './schema.ts'
