declare module 'csv-spectrum' {
  const spectrum: (
    done: (error: Error | null, cases: { name: string; csv: Buffer; json: Buffer }[]) => void,
  ) => void
  export default spectrum
}
