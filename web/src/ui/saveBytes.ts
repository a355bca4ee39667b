/** Gives a person bytes as a file, as a browser saves files. */
export function saveBytes(bytes: BlobPart, type: string, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([bytes], { type }));
  // what systems do not take in names
  link.download = name.replace(/[\\/:*?"<>|]/g, '-');
  link.click();
  URL.revokeObjectURL(link.href);
}
