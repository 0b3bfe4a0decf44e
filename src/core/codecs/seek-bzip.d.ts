/** The part of seek-bzip that is used here; the package has no types. */
declare module 'seek-bzip' {
  interface Output {
    writeByte(byte: number): void;
    flush(): void;
  }
  const Bunzip: { decode(input: Buffer, output: Output): void };
  // eslint-disable-next-line import-x/no-default-export -- what the package exports
  export default Bunzip;
}
