/** A file saved where the person says, in browsers that can ask (the File System Access API). */
type Picker = (options: { suggestedName: string }) => Promise<FileSystemFileHandle>
const picker = (window as unknown as { showSaveFilePicker?: Picker }).showSaveFilePicker

export const canChoosePlace = picker !== undefined

/** Ask where to, and save what an address holds there; nothing is written where the person thinks better of it. */
export async function saveFile(address: string, suggestedName: string): Promise<void> {
  const place = await picker?.({ suggestedName }).catch(() => null)
  if (!place) return
  const answer = await fetch(address)
  if (!answer.ok || !answer.body) throw new Error(`The file could not be fetched: ${answer.status}`)
  await answer.body.pipeTo(await place.createWritable())
}
