/** The pictures of titles, drawn by the server as it draws them for the file; the last ones are kept. */
import { Budget } from '@/lib/budget'
import type { Title } from '@/lib/titles'

const BITMAP_BYTES = 64 << 20
const BYTES_PER_PIXEL = 4
const bitmaps = new Budget<ImageBitmap>(BITMAP_BYTES, (bitmap) => bitmap.close())
const drawing = new Map<string, Promise<ImageBitmap | null>>()

type Written = Pick<Title, 'text' | 'font' | 'bold' | 'size' | 'colour' | 'align' | 'behind'>
interface Frame {
  width: number
  height: number
}
function addressOf(
  { text, font, bold, size, colour, align, behind }: Written,
  { width, height }: Frame,
): string {
  const said = { text, font, bold, size, colour, align, behind, width, height }
  const given = Object.entries(said).filter(([, value]) => value !== undefined)
  return `/api/lettering?${new URLSearchParams(given.map(([name, value]) => [name, String(value)]))}`
}

async function draw(address: string): Promise<ImageBitmap | null> {
  const answer = await fetch(address).catch(() => null)
  if (!answer?.ok) return null
  const bitmap = await createImageBitmap(await answer.blob())
  bitmaps.set(address, bitmap, bitmap.width * bitmap.height * BYTES_PER_PIXEL)
  return bitmap
}

export const lettering = {
  /** The picture of a title if it is there already. */
  ready: (title: Written, frame: Frame) => bitmaps.get(addressOf(title, frame)) ?? null,

  /** The picture of a title in a frame of this size; null when it cannot be had. */
  get(title: Written, frame: Frame): Promise<ImageBitmap | null> {
    const address = addressOf(title, frame)
    const found = bitmaps.get(address)
    if (found) return Promise.resolve(found)
    const pending = drawing.get(address) ?? draw(address).finally(() => drawing.delete(address))
    drawing.set(address, pending)
    return pending
  },
}
