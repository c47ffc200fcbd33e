// The few names every JavaScript platform has (browser, worker, Node and others) that the language's own
// library files leave out. Nothing here belongs to a page or to Node alone.
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
  decode(input?: ArrayBufferView, options?: { readonly stream?: boolean }): string;
}
declare class TextEncoder {
  encode(input: string): Uint8Array<ArrayBuffer>;
  encodeInto(input: string, into: Uint8Array): { read: number; written: number };
}
declare function btoa(text: string): string;
declare function atob(text: string): string;
declare const crypto: {
  readonly subtle: { digest(algorithm: string, bytes: Uint8Array<ArrayBuffer>): Promise<ArrayBuffer> };
};
declare class DecompressionStream {
  constructor(format: 'gzip');
  readonly writable: {
    getWriter(): { write(bytes: Uint8Array): Promise<void>; close(): Promise<void> };
  };
  readonly readable: {
    getReader(): {
      read(): Promise<{ done: true; value?: undefined } | { done: false; value: Uint8Array }>;
      cancel(): Promise<void>;
    };
  };
}
