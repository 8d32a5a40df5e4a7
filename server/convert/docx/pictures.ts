import { createHash } from 'node:crypto'
import type { Element } from '@xmldom/xmldom'
import type { Block } from '#core/document/tree.ts'
import { readPicture } from '#server/convert/read-picture.ts'
import { anywhere, attribute, type DocxPackage, type Relationship } from './package.ts'
import type { Remarks } from './remarks.ts'

/** The pictures of a document by the SHA-256 of their bytes. */
export class Pictures {
  readonly found = new Map<string, { readonly bytes: Uint8Array; readonly mediaType: string }>()
  /** By the ids of relationships. */
  private readonly hashes = new Map<string, string>()

  /** `draws` tells whether bytes that look like a picture can be drawn. */
  constructor(
    private readonly remarks: Remarks,
    private readonly draws: (bytes: Uint8Array) => boolean,
  ) {}

  async load(pack: DocxPackage, relationships: ReadonlyMap<string, Relationship>): Promise<void> {
    for (const [id, { target, external }] of relationships) {
      if (external || !/^word\/media\//.test(target)) continue
      const bytes = await pack.bytes(target)
      const read = bytes && readPicture(bytes)
      if (!bytes || !read?.ok || !this.draws(bytes)) continue
      const hash = createHash('sha256').update(bytes).digest('hex')
      this.found.set(hash, { bytes, mediaType: read.mediaType })
      this.hashes.set(id, hash)
    }
  }

  /** The picture in a drawing as a block, `textWidth` in twips; null where there is none that can be taken. */
  block(drawing: Element, textWidth: number): Block | null {
    const blip = anywhere(drawing, 'blip')
    const id = attribute(blip, 'embed')
    if (attribute(blip, 'link')) {
      this.remarks.tell('left out', 'A picture that lies outside of the document')
      return null
    }
    const file = id ? this.hashes.get(id) : undefined
    if (!file) {
      this.remarks.tell(
        'left out',
        anywhere(drawing, 'txbxContent')
          ? 'A text box'
          : 'A picture or drawing of a kind that is not taken (PNG, JPEG and SVG are)',
      )
      return null
    }
    const extent = anywhere(drawing, 'extent')
    // 635 English metric units are one twip.
    const twips = Number(attribute(extent, 'cx') ?? 0) / 635
    const alt = attribute(anywhere(drawing, 'docPr'), 'descr') ?? ''
    if (!alt)
      this.remarks.tell('changed', 'A picture without a description; write one for readers who cannot see it')
    return {
      type: 'image',
      attrs: {
        id: '',
        condition: null,
        file,
        alt: alt.slice(0, 500),
        width: Math.min(100, Math.max(1, Math.round((100 * twips) / textWidth) || 40)),
      },
    }
  }
}
