/** Gives a person bytes as a file, as a browser saves files. */
export const saveBytes = (bytes: BlobPart, type: string, name: string): void =>
  saveFile(new Blob([bytes], { type }), name);

export function saveFile(file: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  // what systems do not take in names
  link.download = name.replace(/[\\/:*?"<>|]/g, '-');
  link.click();
  URL.revokeObjectURL(link.href);
}
