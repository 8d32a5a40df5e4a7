declare module 'csv-spectrum' {
  const spectrum: (
    done: (error: Error | null, cases: { name: string; csv: Buffer; json: Buffer }[]) => void,
  ) => void
  export default spectrum
}

declare module 's3rver' {
  export default class S3rver {
    constructor(options: {
      address: string
      port: number
      silent: boolean
      directory: string
      configureBuckets: { name: string }[]
    })
    run(): Promise<import('node:net').AddressInfo>
    close(): Promise<void>
  }
}
