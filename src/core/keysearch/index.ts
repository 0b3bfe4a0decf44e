/** Finding keys: in files, and from bytes whose plain form is known. */
export { searchKeys, type FoundKey } from './search';
export { solveXor, solveXorAnywhere, xorWith, type SolvedXor } from './xor';
