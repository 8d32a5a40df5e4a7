import { perObject } from '#core/per-object.ts'
import { PDFArray, type PDFContext, PDFDict, PDFName, type PDFObject, PDFRef, PDFStream } from 'pdf-lib'

// What draws a page, and nothing else: of resources that come from outside every key that is not known to draw is taken away,
// wherever it stands. Scripts, embedded programs, other pictures for printing, references to other files, external data,
// metadata and private data are none of the keys below.

const words = (text: string): readonly string[] => text.trim().split(/\s+/)

/**
 * Keys of dictionaries and streams that take part in drawing (ISO 32000-1), by where they are told of. What is shared by
 * several stands once.
 */
export const DRAWING_KEYS: ReadonlySet<string> = new Set([
  // 7.3.8.2, 7.4: a stream's length and how it is packed; data in another file (F, FFilter, FDecodeParms) is not.
  ...words('Length Filter DecodeParms DL'),
  ...words('Predictor Colors BitsPerComponent Columns EarlyChange'),
  ...words(
    'K EndOfLine EncodedByteAlign Rows EndOfBlock BlackIs1 DamagedRowsBeforeError JBIG2Globals ColorTransform',
  ),
  // 7.8.3: resources.
  ...words('ExtGState ColorSpace Pattern Shading XObject Font ProcSet'),
  ...words('Type Subtype Name'),
  // 8.4.5: graphics states.
  ...words('LW LC LJ ML D RI OP op OPM BG BG2 UCR UCR2 TR TR2 HT FL SM SA BM SMask CA ca AIS TK'),
  // 10.5: halftones.
  ...words(
    'HalftoneType HalftoneName Frequency Angle SpotFunction AccurateScreens TransferFunction Width2 Height2 Xsquare Ysquare',
  ),
  // 8.6: colour spaces.
  ...words(
    'WhitePoint BlackPoint Gamma Matrix Range N Alternate Colorants Process Components MixingHints Solidities DotGain PrintingOrder',
  ),
  // 8.7: patterns and shadings.
  ...words('PatternType PaintType TilingType BBox XStep YStep Resources'),
  ...words(
    'ShadingType Background AntiAlias Function Domain Coords Extend BitsPerCoordinate BitsPerFlag Decode VerticesPerRow',
  ),
  // 7.10: functions.
  ...words('FunctionType Size BitsPerSample Order Encode C0 C1 Functions Bounds'),
  // 8.9.5, 8.10, 11.6.6: pictures, forms and groups; no other pictures for printing (Alternates), pages of other files (Ref), OPI.
  ...words('Width Height Intent ImageMask Mask Interpolate SMaskInData Matte FormType Group S CS I G BC'),
  // 9.6 to 9.10: fonts.
  ...words(
    'BaseFont FirstChar LastChar Widths FontDescriptor Encoding BaseEncoding Differences ToUnicode FontBBox FontMatrix CharProcs',
  ),
  ...words(
    'DescendantFonts CIDSystemInfo Registry Ordering Supplement DW W DW2 W2 CIDToGIDMap CMapName WMode UseCMap',
  ),
  ...words(
    'FontName FontFamily FontStretch FontWeight Flags ItalicAngle Ascent Descent Leading CapHeight XHeight StemV StemH AvgWidth MaxWidth MissingWidth',
  ),
  ...words('FontFile FontFile2 FontFile3 Length1 Length2 Length3 CharSet Style Panose Lang FD CIDSet'),
])

/** What a dictionary is: resources by kind, things by names of the file's own, or one thing with keys of the standard. */
type Kind = 'resources' | 'named' | 'thing'

/** What was looked at already in a document: pages share most of what draws them. */
const seenIn = perObject((_: PDFContext) => new Set<PDFObject>())

/** Takes all that does not draw away from resources, or from the stream of one look, and from everything that they lead to. */
export function keepDrawing(context: PDFContext, root: PDFDict | PDFStream): void {
  const seen = seenIn(context)
  const waiting: [PDFObject, Kind][] = [[root, root instanceof PDFStream ? 'thing' : 'resources']]
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const [found, kind] = next
    const object = found instanceof PDFRef ? context.lookup(found) : found
    if (!object || seen.has(object)) continue
    seen.add(object)
    if (object instanceof PDFArray) {
      for (const each of object.asArray()) waiting.push([each, 'thing'])
      continue
    }
    const dict = object instanceof PDFStream ? object.dict : object instanceof PDFDict ? object : null
    if (!dict) continue
    for (const [key, value] of dict.entries()) {
      const name = key.decodeText()
      if ((kind !== 'named' && !DRAWING_KEYS.has(name)) || isProgram(context, value)) dict.delete(key)
      else waiting.push([value, kindOf(kind, name, value, context)])
    }
  }
}

function kindOf(parent: Kind, key: string, value: PDFObject, context: PDFContext): Kind {
  if (parent === 'resources') return 'named'
  if (parent === 'named') return 'thing'
  if (key === 'Resources') return 'resources'
  const object = value instanceof PDFRef ? context.lookup(value) : value
  return (key === 'CharProcs' || key === 'Colorants' || key === 'Solidities' || key === 'DotGain') &&
    object instanceof PDFDict
    ? 'named'
    : 'thing'
}

/** A program in PostScript among what draws (8.8.2), or a picture that says it is none. */
function isProgram(context: PDFContext, value: PDFObject): boolean {
  const object = value instanceof PDFRef ? context.lookup(value) : value
  if (!(object instanceof PDFStream)) return false
  const kinds = ['Subtype', 'Subtype2'].map((key) => object.dict.lookup(PDFName.of(key)))
  return kinds.some((kind) => kind instanceof PDFName && kind.decodeText() === 'PS')
}
