export {
  checkRange,
  bufferSource,
  copyOf,
  joinedSource,
  lazySource,
  readChunks,
  sliceSource,
  type ByteSource,
} from './byte-source';
export { collect, memoryScratch, memorySink, type ByteSink, type Scratch } from './byte-sink';
export { Cursor, type Endianness } from './cursor';
export { ByteWriter } from './byte-writer';
export { RangeSet, type ByteRange } from './range-set';
