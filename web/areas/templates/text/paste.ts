/** Largest clipboard taken: text of a hundred long contracts. Characters of HTML. */
export const PASTE_LIMIT = 2_000_000

const CONDITIONAL = /<!--\[if[\s\S]*?<!\[endif\]-->/gi
/** Handlers run nowhere here; taken out before parsing they raise no alarm of the page's content policy either. */
const HANDLER = /\son\w+\s*=\s*("[^"]*"|'[^']*'|[^\s>]+)/gi

const DROPPED =
  'script, style, link, meta, title, object, embed, iframe, svg, math, form, input, button, select, textarea, video, audio, template, noscript, xml'

/** Level of a numbered paragraph as word processors put it on the clipboard: `mso-list: l0 level2 lfo1`. */
const listLevel = (element: Element): number | null => {
  const found = /mso-list:\s*l\d+\s+level(\d)/i.exec(element.getAttribute('style') ?? '')
  return found ? Number(found[1]) : null
}

const isBold = (element: HTMLElement) => /^(bold|[6-9]00)$/.test(element.style.fontWeight)

/** Replaces an element by its children. */
const unwrap = (element: Element) => element.replaceWith(...element.childNodes)

/** The marker that a word processor writes before a list's paragraph; it says whether that is numbered or a bullet. */
function takeMarker(paragraph: Element): string {
  const marker = [...paragraph.querySelectorAll('span')].find((span) =>
    /mso-list:\s*ignore/i.test(span.getAttribute('style') ?? ''),
  )
  const text = marker?.textContent?.trim() ?? ''
  marker?.remove()
  return text
}

/** Runs of list paragraphs become clauses (numbered) or lists (bullets), nested by their levels. */
function makeLists(body: HTMLElement): void {
  const document = body.ownerDocument
  for (const paragraph of [...body.querySelectorAll('p')]) {
    const level = listLevel(paragraph)
    if (level === null) continue
    const marker = takeMarker(paragraph)
    const before = paragraph.previousElementSibling
    if (/^[\p{L}\p{N}(]/u.test(marker) && !/^o$/i.test(marker)) {
      const clause = document.createElement('section')
      clause.className = 'clause'
      const inner = document.createElement('div')
      inner.className = 'clause-body'
      clause.append(inner)
      // A deeper clause goes into the last one of the level above.
      let around = level > 1 && before?.matches('section.clause') ? before : null
      for (let depth = 2; around && depth < Math.min(level, 3); depth++)
        around = around.querySelector(':scope > .clause-body > section.clause:last-of-type') ?? around
      if (around) {
        paragraph.replaceWith()
        around.querySelector('.clause-body')!.append(clause)
      } else paragraph.replaceWith(clause)
      inner.append(paragraph)
    } else {
      const item = document.createElement('li')
      const list = before?.matches('ul') ? before : document.createElement('ul')
      if (list === before) paragraph.replaceWith()
      else paragraph.replaceWith(list)
      list.append(item)
      item.append(paragraph)
    }
  }
}

/** Numbered lists of other programs are clauses here. */
function makeClauses(body: HTMLElement): void {
  for (const list of [...body.querySelectorAll('ol')].reverse()) {
    const lettered =
      list.getAttribute('type') === 'a' || /lower-(alpha|latin)/.test(list.getAttribute('style') ?? '')
    if (lettered && !list.parentElement?.closest('ol')) continue
    for (const item of [...list.children]) {
      const clause = body.ownerDocument.createElement('section')
      clause.className = 'clause'
      const inner = body.ownerDocument.createElement('div')
      inner.className = 'clause-body'
      inner.append(...item.childNodes)
      clause.append(inner)
      item.replaceWith(clause)
    }
    unwrap(list)
  }
}

/**
 * What is pasted, without what a word processor adds: structure stays (headings, clauses, lists, tables, bold, italic,
 * underline), looks and programs go. Longer clipboards than the limit are cut to their plain text.
 */
export function cleanPasted(html: string): string {
  const document = new DOMParser().parseFromString(
    html.length > PASTE_LIMIT ? '' : html.replace(CONDITIONAL, '').replace(HANDLER, ''),
    'text/html',
  )
  const { body } = document
  body.querySelectorAll(DROPPED).forEach((element) => element.remove())
  const comments = document.createNodeIterator(body, NodeFilter.SHOW_COMMENT)
  for (let node = comments.nextNode(); node; node = comments.nextNode()) (node as ChildNode).remove()
  makeLists(body)
  makeClauses(body)
  for (const element of [...body.querySelectorAll<HTMLElement>('span, font, b, div, a')]) {
    if (element.matches('.merge-field, .blank-place, .phrase, .clause-reference, .clause-body')) continue
    // Some programs wrap everything in a bold element that says it is not bold.
    if (element.matches('b') && !/normal|400/.test(element.style.fontWeight)) continue
    const wanted = [
      isBold(element) && 'strong',
      element.style.fontStyle === 'italic' && 'em',
      /underline/.test(element.style.textDecoration) && !element.matches('a') && 'u',
    ]
    for (const tag of wanted.filter((name) => name !== false)) {
      const mark = document.createElement(tag)
      mark.append(...element.childNodes)
      element.append(mark)
    }
    if (!element.matches('div')) unwrap(element)
  }
  for (const element of body.querySelectorAll('*'))
    for (const { name } of [...element.attributes])
      if (
        ![
          'class',
          'colspan',
          'rowspan',
          'data-field',
          'data-format',
          'data-blank',
          'data-clause',
          'data-pm-slice',
          'data-carried',
        ].includes(name) &&
        !(name === 'style' && element.matches('td, th'))
      )
        element.removeAttribute(name)
  return body.innerHTML
}
