/** As many entries of a folder as the browser gives at a time. */
const entriesOf = (folder: FileSystemDirectoryReader) => new Promise<FileSystemEntry[]>((resolve, reject) => folder.readEntries(resolve, reject));

async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  // Files such as .DS_Store are the system's, not the technician's.
  if (entry.name.startsWith('.')) return [];
  if (entry.isFile) return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))];
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const files: File[] = [];
  for (let some = await entriesOf(reader); some.length > 0; some = await entriesOf(reader)) {
    for (const one of some) files.push(...(await filesIn(one)));
  }
  return files;
}

/** What was dropped, folders opened, in the order of names. */
export async function droppedFiles(data: DataTransfer): Promise<File[]> {
  // The entries must be asked for before anything is awaited: the browser empties the list after the event.
  const entries = [...data.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  const files = entries.length > 0 ? (await Promise.all(entries.map(filesIn))).flat() : [...data.files];
  return files.sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
}
