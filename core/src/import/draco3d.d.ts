declare module 'draco3d' {
  const draco3d: { createDecoderModule(): Promise<unknown> };
  export default draco3d;
}
