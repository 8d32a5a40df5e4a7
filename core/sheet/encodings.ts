/** Encodings a text file may be in, by the labels of the WHATWG Encoding Standard, with the names people know. */
export const ENCODING_NAMES = {
  'utf-8': 'UTF-8',
  'utf-16le': 'UTF-16, little end first',
  'utf-16be': 'UTF-16, big end first',
  'windows-1252': 'Windows-1252 (Western Europe)',
  'windows-1250': 'Windows-1250 (Central Europe)',
  'windows-1251': 'Windows-1251 (Cyrillic)',
  'windows-1253': 'Windows-1253 (Greek)',
  'windows-1254': 'Windows-1254 (Turkish)',
  'windows-1257': 'Windows-1257 (Baltic)',
  'iso-8859-2': 'ISO 8859-2 (Central Europe)',
  'iso-8859-5': 'ISO 8859-5 (Cyrillic)',
  'iso-8859-7': 'ISO 8859-7 (Greek)',
  'iso-8859-15': 'ISO 8859-15 (Western Europe with euro)',
  'koi8-r': 'KOI8-R (Russian)',
  macintosh: 'Macintosh Roman',
  ibm866: 'IBM 866 (Cyrillic)',
  shift_jis: 'Shift_JIS (Japanese)',
  'euc-jp': 'EUC-JP (Japanese)',
  gb18030: 'GB 18030 (Chinese)',
  big5: 'Big5 (Chinese)',
  'euc-kr': 'EUC-KR (Korean)',
} as const
export type Encoding = keyof typeof ENCODING_NAMES
/** All of them, for a choice. */
export const ENCODINGS = Object.keys(ENCODING_NAMES) as [Encoding, ...Encoding[]]
