import { useEffect, useState } from 'react'

/** The bytes of a blob, once they are read. */
export function useBytes(blob: Blob | undefined): Uint8Array | null {
  const [bytes, setBytes] = useState<Uint8Array | null>(null)
  useEffect(() => {
    let current = true
    void blob?.arrayBuffer().then((buffer) => current && setBytes(new Uint8Array(buffer)))
    return () => {
      current = false
    }
  }, [blob])
  return bytes
}
