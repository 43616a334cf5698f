/** What every JavaScript platform has beyond the language and the core may use. */
declare class TextDecoder {
  decode(bytes: Uint8Array): string;
}
declare class TextEncoder {
  encode(text: string): Uint8Array;
}
