// What signers filled in, drawn on otherwise empty pages that are laid over the document. Where and how large each part
// stands is worked out in core/agreement/stamping.ts, for the page that is signed on too. Data as in stamps.ts.
#let doc = json(bytes(sys.inputs.doc))
#let blue = rgb("#1a2f66")
#set document(title: "Stamps")
#set text(lang: "en", top-edge: "baseline", bottom-edge: "baseline")

#let at(x, y, body) = place(top + left, dx: x * 1pt, dy: y * 1pt, body)

#let words(p) = at(p.x, p.y, context {
  let set-in(size) = text(font: p.font, weight: p.weight, fill: blue, size: size, p.text)
  let wide = measure(set-in(p.size * 1pt)).width
  let room = p.room * 1pt
  set-in(if wide > room { p.size * 1pt * (room / wide) } else { p.size * 1pt })
})

#let ink(p) = for outline in p.outlines.filter(o => o.len() > 2) {
  let (first, ..rest) = outline.map(q => (q.at(0) * p.scale * 1pt, q.at(1) * p.scale * 1pt))
  at(p.x, p.y, curve(fill: blue, fill-rule: "non-zero", curve.move(first), ..rest.map(q => curve.line(q)), curve.close()))
}

#let lines(p) = for (x1, y1, x2, y2) in p.lines {
  at(0, 0, line(start: (x1 * 1pt, y1 * 1pt), end: (x2 * 1pt, y2 * 1pt), stroke: p.width * 1pt + blue))
}

#let picture(p) = at(p.x, p.y, image("pictures/" + p.sha256, width: p.width * 1pt, height: p.height * 1pt, fit: "contain"))

// Beside a signature stands whose it is, when it was given and by which proof: it takes the right part of a wide place.
#let note(n) = at(n.x, n.y, box(width: n.width * 1pt, height: n.height * 1pt, place(bottom + right, dy: -1.5pt, box(width: n.width * 0.4pt, {
  set text(font: "Source Sans 3", size: 5.2pt, fill: blue, top-edge: "cap-height")
  set par(leading: 0.3em)
  set align(right)
  n.lines.map(line => text(line)).join(linebreak())
}))))

#let draw = (text: words, ink: ink, lines: lines, picture: picture)

#for (i, page-size) in doc.pages.enumerate() {
  page(width: page-size.width * 1pt, height: page-size.height * 1pt, margin: 0pt, fill: none, {
    for n in doc.notes.filter(n => n.page == i + 1) { note(n) }
    for p in doc.parts.filter(p => p.page == i + 1) { (draw.at(p.kind))(p) }
  })
}
