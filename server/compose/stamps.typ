// What signers filled in, drawn on otherwise empty pages that are laid over the document. Data as in stamps.ts.
#let doc = json(bytes(sys.inputs.doc))
#let blue = rgb("#1a2f66")
#set document(title: "Stamps")
#set text(lang: "en")

// As large as the blank's height allows, smaller where its width would not hold the text.
#let fitted(s, font, weight, share, most) = context {
  let size = calc.min(s.height * share, most) * 1pt
  let wide = measure(text(font: font, weight: weight, size: size, s.text)).width
  let room = (s.width - 4) * 1pt
  text(font: font, weight: weight, fill: blue, size: if wide > room { size * (room / wide) } else { size }, s.text)
}

#let drawn(s) = {
  let scale = calc.min(s.width, (s.height + 8) / s.boxHeight) * 1pt
  let up = s.boxHeight * scale
  for outline in s.outlines.filter(o => o.len() > 2) {
    let (first, ..rest) = outline.map(p => (p.at(0) * scale, p.at(1) * scale))
    place(top + left, dy: s.height * 1pt - up, curve(fill: blue, fill-rule: "non-zero", curve.move(first), ..rest.map(p => curve.line(p)), curve.close()))
  }
}

// Beside a signature stands whose it is, when it was given and by which proof: it takes the right part of a wide place.
#let signed(s) = if s.note.len() > 0 { (..s, width: s.width * 0.58) } else { s }
#let noted(s) = box(width: s.width * 0.4pt, {
  set text(font: "Source Sans 3", size: 5.2pt, fill: blue)
  set par(leading: 0.3em)
  set align(right)
  s.note.map(line => text(line)).join(linebreak())
})

#for (i, page-size) in doc.pages.enumerate() {
  page(width: page-size.width * 1pt, height: page-size.height * 1pt, margin: 0pt, fill: none, {
    for s in doc.stamps.filter(s => s.page == i + 1) {
      place(top + left, dx: s.x * 1pt, dy: s.y * 1pt, box(width: s.width * 1pt, height: s.height * 1pt, {
        if s.note.len() > 0 { place(bottom + right, dy: -1.5pt, noted(s)) }
        if s.kind == "drawn" { drawn(signed(s)) }
        else if s.kind == "tick" {
          place(top + left, line(start: (1.5pt, 1.5pt), end: (s.width * 1pt - 1.5pt, s.height * 1pt - 1.5pt), stroke: 1.2pt + blue))
          place(top + left, line(start: (1.5pt, s.height * 1pt - 1.5pt), end: (s.width * 1pt - 1.5pt, 1.5pt), stroke: 1.2pt + blue))
        }
        else if s.kind == "picture" { place(bottom + left, dx: 2pt, dy: -1pt, image("pictures/" + s.picture, width: signed(s).width * 1pt, height: s.height * 1pt - 2pt, fit: "contain")) }
        else if s.kind == "typed" { place(bottom + left, dx: 2pt, dy: -1.5pt, fitted(signed(s), s.font, if s.font == "Kalam" { 400 } else { 600 }, 0.95, 30)) }
        else { place(bottom + left, dx: 2pt, dy: -2.5pt, fitted(s, "Source Sans 3", 400, 0.78, 11)) }
      }))
    }
  })
}
