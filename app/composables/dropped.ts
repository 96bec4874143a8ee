// Files of a drop, folders opened (one level of nesting after another), in the order of their names.
const MOST = 20000

async function inside(entry: FileSystemEntry, found: File[]): Promise<void> {
  if (found.length >= MOST) return
  if (entry.isFile) {
    found.push(await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)))
    return
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  // A reader hands out a hundred at a time, until it hands out none
  for (;;) {
    const batch = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (!batch.length) return
    for (const child of batch) await inside(child, found)
  }
}

export async function droppedFiles(transfer: DataTransfer | null): Promise<File[]> {
  const entries = [...(transfer?.items ?? [])].map(item => item.webkitGetAsEntry?.()).filter(entry => !!entry)
  if (!entries.some(entry => entry.isDirectory)) return [...(transfer?.files ?? [])]
  const found: File[] = []
  for (const entry of entries) await inside(entry, found)
  return found
    .filter(file => !file.name.startsWith('.'))
    .sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0))
}
