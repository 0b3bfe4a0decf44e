export type { Fault, FaultCode } from './fault';
export { CancelledError, FaultError, faultOf, FormatError, isFaultError, LimitError, throwIfStopped } from './fault';
export { hexBytes, sayFault } from './words';
