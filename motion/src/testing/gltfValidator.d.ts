/** Of the format's own validator: what is asked of it. */
declare module "gltf-validator" {
  interface Message {
    readonly pointer: string;
    readonly message: string;
    /** 0: error, 1: warning, 2: information, 3: hint */
    readonly severity: number;
  }
  export function validateBytes(
    bytes: Uint8Array,
  ): Promise<{ readonly issues: { readonly numErrors: number; readonly numWarnings: number; readonly messages: readonly Message[] } }>;
}
