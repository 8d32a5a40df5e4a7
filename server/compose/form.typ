// What stands on pages that are there already: words and values, drawn on otherwise empty pages that are laid over them.
// Data as in form-pages.ts; user text reaches Typst only as strings. What does not fit is told by <overflow>.
#let doc = json(bytes(sys.inputs.doc))
#let ink = rgb("#20242b")
#let hand = rgb("#1a2f66")
#let hair = 0.5pt + rgb("#8F897C")
#let fonts = (sans: "Source Sans 3", serif: "Source Serif 4", typewriter: "Courier Prime")
#set document(title: doc.title)
#set text(lang: doc.language.split("-").first(), hyphenate: false)

// Part of its size that a line's letters hang below its baseline, and points kept free below it.
#let below = 0.22
#let most-below = 2.5

#let styled(r, body) = {
  if r.bold { body = strong(body) }
  if r.italic { body = emph(body) }
  if r.underline { body = underline(offset: 2pt, body) }
  body
}
#let words(p) = p.runs.map(r => styled(r, text(fill: if r.gap { rgb("#A23B2A") } else if r.preset { hand } else { ink }, r.text))).join()
#let told(p) = [#metadata((place: p.place, text: p.runs.map(r => r.text).join())) <overflow>]

#let one-line(p) = context {
  let set-at(size) = { set text(font: fonts.at(p.style.font), size: size * 1pt); words(p) }
  let wide = measure(set-at(p.style.size)).width / 1pt
  let least = if p.style.least == none { p.style.size } else { calc.min(p.style.least, p.style.size) }
  let size = if wide > p.width { calc.max(least, p.style.size * p.width / wide) } else { p.style.size }
  if wide * size / p.style.size > p.width + 0.05 { told(p) }
  let lift = calc.max(size * below, calc.min((p.height - size * 0.66) / 2, most-below))
  let side = (left: left, center: center, right: right).at(p.style.align)
  // The letters stand on a baseline of the same height, whatever they are.
  place(bottom + side, dy: -lift * 1pt, box(height: 0pt, { set text(bottom-edge: "baseline", top-edge: "baseline"); set-at(size) }))
}

#let many-lines(p) = context {
  let set-at(size) = {
    set text(font: fonts.at(p.style.font), size: size * 1pt)
    set par(leading: 0.5em, spacing: 0.9em, justify: false)
    align((left: left, center: center, right: right).at(p.style.align), words(p))
  }
  let least = if p.style.least == none { p.style.size } else { calc.min(p.style.least, p.style.size) }
  let fits(size) = {
    let there = measure(width: p.width * 1pt, set-at(size))
    let line = size * 1.2
    there.height / 1pt <= calc.min(p.height, p.style.lines * line) + 0.3 and there.width / 1pt <= p.width + 0.05
  }
  let size = p.style.size
  while size > least and not fits(size) { size = calc.max(least, size - 0.5) }
  if not fits(size) { told(p) }
  place(top + left, block(width: p.width * 1pt, set-at(size)))
}

#let combed(p) = {
  let letters = p.runs.map(r => r.text).join().clusters()
  let cell = p.width / p.style.comb
  if letters.len() > p.style.comb { told(p) }
  let size = calc.min(p.style.size, p.height)
  for (i, letter) in letters.slice(0, calc.min(letters.len(), p.style.comb)).enumerate() {
    let lift = calc.max(size * below, calc.min((p.height - size * 0.66) / 2, most-below))
    place(bottom + left, dx: i * cell * 1pt, dy: -lift * 1pt, box(width: cell * 1pt, height: 0pt, align(center, { set text(font: fonts.at(p.style.font), size: size * 1pt, fill: ink, bottom-edge: "baseline", top-edge: "baseline"); letter })))
  }
}

#for sheet in doc.pages {
  page(width: sheet.width * 1pt, height: sheet.height * 1pt, margin: 0pt, fill: none, {
    if doc.mark != "" { place(center + horizon, rotate(-35deg, text(font: "Source Sans 3", size: 64pt, weight: 600, fill: rgb("#20242b22"), doc.mark))) }
    for p in sheet.places {
      place(top + left, dx: p.x * 1pt, dy: p.y * 1pt, box(width: p.width * 1pt, height: p.height * 1pt, {
        if p.style.comb != none { combed(p) } else if p.style.lines > 1 { many-lines(p) } else { one-line(p) }
      }))
    }
    for o in sheet.options {
      place(top + left, dx: o.x * 1pt, dy: o.y * 1pt, rect(width: o.size * 1pt, height: o.size * 1pt, stroke: hair))
      place(top + left, dx: (o.x + o.size + 4) * 1pt, dy: o.y * 1pt, text(font: "Source Sans 3", size: 9pt, fill: ink, o.label))
    }
    for i in sheet.initials {
      place(top + left, dx: i.x * 1pt, dy: (i.y + i.height) * 1pt, line(length: i.width * 1pt, stroke: hair))
      place(top + left, dx: (i.x - 9) * 1pt, dy: (i.y + i.height - 7) * 1pt, text(font: "Source Sans 3", size: 7pt, fill: ink, i.letter))
    }
  })
}
