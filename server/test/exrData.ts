// What comes after the header of an OpenEXR file: its pixels, as they are packed. The header says whose they are, and
// differs from version to version.
const MAGIC_BYTES = 8;

export function exrData(file: Buffer): Buffer {
  let at = MAGIC_BYTES;
  const skipText = () => (at = file.indexOf(0, at) + 1);
  while (file[at] !== 0) {
    skipText();
    skipText();
    at += 4 + file.readUInt32LE(at);
  }
  // behind the header stands where each block begins
  return file.subarray(Number(file.readBigUInt64LE(at + 1)));
}
