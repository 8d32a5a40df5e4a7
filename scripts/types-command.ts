/** Checks all types; what it knows of unchanged files it keeps, which makes the next check some seconds long. */
export const TYPES_COMMAND = [
  'tsc',
  '-p',
  '.',
  '--incremental',
  '--tsBuildInfoFile',
  'node_modules/.cache/brevan.tsbuildinfo',
] as const
