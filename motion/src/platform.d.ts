// The little of the platform that the core touches; both the page and the server have it.
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(bytes?: Uint8Array): string;
}
declare class TextEncoder {
  encode(text: string): Uint8Array;
}
