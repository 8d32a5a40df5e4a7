import * as v from 'valibot'

/** A SHA-256 in hex, which files and entries of a trail are known by. */
export const sha256Schema = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))
