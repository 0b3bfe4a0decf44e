export type { Fault, FaultCode } from './fault';
export { CancelledError, FaultError, faultOf, FormatError, isFaultError, LimitError, throwIfStopped } from './fault';
export { faultSchema } from './fault-schema';
export { sayIssue } from './schema-issue';
export { visible } from './visible';
export { hexBytes, sayFault } from './words';
