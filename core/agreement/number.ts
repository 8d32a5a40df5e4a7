/** An agreement's number: `{n}` of its series' pattern with four digits, or as many as it takes. */
export const numberText = (pattern: string, number: number): string =>
  pattern.replace('{n}', String(number).padStart(4, '0'))
