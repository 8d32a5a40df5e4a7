/** A recorded word of the sender's: sound alone, or film. */
export type Recorded =
  | { readonly ok: true; readonly kind: 'sound' | 'film'; readonly type: string }
  | { readonly ok: false; readonly problem: string }

/** Seconds that a recording may last, and the bytes that each kind may have: enough for that at the usual density. */
export const RECORDING = { seconds: 180, bytes: { sound: 6_000_000, film: 30_000_000 } } as const

const starts = (bytes: Uint8Array, signature: readonly number[], at = 0): boolean =>
  signature.every((byte, i) => bytes[at + i] === byte)

/** Whether a word stands in the first part of a file, where its tracks are told. */
function says(bytes: Uint8Array, words: readonly string[]): boolean {
  let text = ''
  for (const part of [bytes.subarray(0, 65_536), bytes.subarray(Math.max(0, bytes.length - 65_536))])
    for (let at = 0; at < part.length; at += 8192)
      text += String.fromCharCode(...part.subarray(at, at + 8192))
  return words.some((word) => text.includes(word))
}

const found = (kind: 'sound' | 'film', container: string): Recorded => ({
  ok: true,
  kind,
  type: `${kind === 'sound' ? 'audio' : 'video'}/${container}`,
})

/** Tells what recording the bytes are by their own words (RFC 9559 WebM, ISO 14496-12 MP4, RFC 3533 Ogg), never by a name. */
export function recordingOf(bytes: Uint8Array): Recorded {
  const read: Recorded | null = starts(bytes, [0x1a, 0x45, 0xdf, 0xa3])
    ? found(says(bytes, ['V_VP8', 'V_VP9', 'V_AV1', 'V_MPEG4']) ? 'film' : 'sound', 'webm')
    : starts(bytes, [0x66, 0x74, 0x79, 0x70], 4)
      ? found(says(bytes, ['vide']) ? 'film' : 'sound', 'mp4')
      : starts(bytes, [0x4f, 0x67, 0x67, 0x53])
        ? found('sound', 'ogg')
        : null
  if (!read?.ok) return { ok: false, problem: 'This is no recording in WebM, MP4 or Ogg.' }
  const most = RECORDING.bytes[read.kind]
  if (bytes.length > most)
    return {
      ok: false,
      problem: `The recording is larger than ${most / 1_000_000} MB. Keep it under ${RECORDING.seconds / 60} minutes.`,
    }
  return read
}
