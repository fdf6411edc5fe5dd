declare module '@echogarden/speex-resampler-wasm' {
  const open: () => Promise<unknown>;
  export default open;
}
