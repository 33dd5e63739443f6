/** All files of a drop, those in folders by their path below what was dropped. */
export async function droppedFiles(data: DataTransfer): Promise<File[]> {
  // Entries must be taken before anything is awaited: the browser empties the list then.
  const entries = [...data.items].map((item) => item.webkitGetAsEntry?.()).filter((entry) => entry != null);
  if (!entries.length) return [...data.files];
  const found: File[] = [];
  for (const entry of entries) await walk(entry, "", found);
  return found;
}

async function walk(entry: FileSystemEntry, above: string, found: File[]): Promise<void> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
    found.push(above ? new File([file], above + file.name, { type: file.type }) : file);
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  // A folder is told in portions; an empty one ends it.
  for (;;) {
    const portion = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (!portion.length) return;
    for (const inner of portion) await walk(inner, `${above}${entry.name}/`, found);
  }
}
