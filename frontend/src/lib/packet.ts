/** Reads a packet: a JSON header, and long columns of numbers behind it; web/packets.py says its form. */
export type Column = Float32Array | Int16Array | Int32Array

const READERS = { f4: Float32Array, i2: Int16Array, i4: Int32Array }

export function unpack<T>(packet: ArrayBuffer): T {
  const length = new DataView(packet).getUint32(0, true)
  const header = new TextDecoder().decode(new Uint8Array(packet, 4, length))
  return JSON.parse(header, (_, value: unknown) => {
    const place = (value as { column?: [keyof typeof READERS, number, number] } | null)?.column
    if (!Array.isArray(place)) return value
    const [type, offset, count] = place
    return new READERS[type](packet, 4 + length + offset, count)
  }) as T
}
