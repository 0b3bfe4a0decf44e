declare module 'gltf-validator' {
  interface Message {
    readonly code: string;
    readonly message: string;
    /** 0 is an error, 1 a warning. */
    readonly severity: number;
    readonly pointer?: string;
  }
  export function validateBytes(
    bytes: Uint8Array,
  ): Promise<{ readonly issues: { readonly messages: readonly Message[] } }>;
}
