/** Gives a text to the reader's own disk. */
export function saveText(text: string, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text]))
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10000)
}
