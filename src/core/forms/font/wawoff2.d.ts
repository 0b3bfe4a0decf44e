/** WOFF2 both ways, as the reference implementation does it. */
declare module 'wawoff2' {
  export function compress(sfnt: Uint8Array): Promise<Uint8Array>;
  export function decompress(woff2: Uint8Array): Promise<Uint8Array>;
}
