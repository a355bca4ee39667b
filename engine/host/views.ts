/** Views on the whole engine memory; made anew after it grows. */
export interface Views {
  readonly u8: Uint8Array;
  readonly u16: Uint16Array;
  readonly i32: Int32Array;
  readonly u32: Uint32Array;
  readonly f32: Float32Array;
}
export const viewsOf = (memory: WebAssembly.Memory): Views => {
  const b = memory.buffer;
  return {
    u8: new Uint8Array(b),
    u16: new Uint16Array(b),
    i32: new Int32Array(b),
    u32: new Uint32Array(b),
    f32: new Float32Array(b),
  };
};

/** Views that last while pieces and levels are loaded: asking the memory for its buffer every time takes a while. */
export class HeldViews {
  u8!: Uint8Array;
  u32!: Uint32Array;
  f32!: Float32Array;
  constructor(private readonly memory: WebAssembly.Memory) {
    this.renew();
  }
  /** Where the memory may have grown since. */
  renew(): void {
    const { buffer } = this.memory;
    if (this.u8?.buffer === buffer) return;
    this.u8 = new Uint8Array(buffer);
    this.u32 = new Uint32Array(buffer);
    this.f32 = new Float32Array(buffer);
  }
}
