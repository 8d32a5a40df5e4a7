// Draws a finished document (core/merge/finished.ts) given as JSON in sys.inputs.doc, in the look in sys.inputs.look
// (core/document/look.ts). User text reaches Typst only as strings: nothing in it is ever read as markup.
// `sys.inputs.proof` = "yes" links merged parts to their origins and tells what is too wide for its space.
#let doc = json(bytes(sys.inputs.doc))
#let look = json(bytes(sys.inputs.look))
#let proof = sys.inputs.at("proof", default: "no") == "yes"
#let mark = sys.inputs.at("mark", default: "")
#let ink = rgb(look.ink)
#let faint = rgb("#6F6A61")
#let hair = 0.5pt + rgb("#8F897C")
#let margins = (top: look.margins.top * 1pt, bottom: look.margins.bottom * 1pt, left: look.margins.left * 1pt, right: look.margins.right * 1pt)
#let measureof = (if doc.paper == "a4" { 595.28pt } else { 612pt }) - margins.left - margins.right

#set document(title: doc.title)
#set text(font: look.textFamily, size: look.size * 1pt, lang: doc.language.split("-").first(), fill: ink, number-type: "lining")
#set par(justify: look.justified, leading: look.leading * 1em, spacing: 1.05em)

// The role's shape with its letter, small, at the left end of a blank.
#let sign(shape, letter) = {
  let face = text(font: "Source Sans 3", size: 5.5pt, weight: 600, letter)
  let at = (fill: none, stroke: 0.5pt + ink)
  box(width: 8pt, height: 8pt, baseline: 1.5pt, {
    if shape == "square" { place(rect(width: 8pt, height: 8pt, ..at)) }
    else if shape == "diamond" { place(polygon((4pt, -0.8pt), (8.8pt, 4pt), (4pt, 8.8pt), (-0.8pt, 4pt), ..at)) }
    else if shape == "hexagon" { place(polygon((2pt, 0pt), (6pt, 0pt), (8.4pt, 4pt), (6pt, 8pt), (2pt, 8pt), (-0.4pt, 4pt), ..at)) }
    else if shape == "triangle" { place(polygon((4pt, -1pt), (9pt, 8pt), (-1pt, 8pt), ..at)) }
    else if shape == "drop" { place(curve(..at, curve.move((4pt, -1.5pt)), curve.cubic((9pt, 3.5pt), (8.5pt, 8.5pt), (4pt, 8.5pt)), curve.cubic((-0.5pt, 8.5pt), (-1pt, 3.5pt), (4pt, -1.5pt)))) }
    else { place(circle(radius: 4pt, ..at)) }
    place(center + horizon, face)
  })
}

// A place a signer fills. Its page and position come out by querying <blank>.
#let spot(id, kind, role, label, required, width, height, option: none, preset: none) = box(width: width, height: height, {
  place(top + left, context {
    let at = here().position()
    [#metadata((id: id, kind: kind, role: role, label: label, required: required, option: option, page: at.page, x: at.x.pt(), y: at.y.pt(), width: width.pt(), height: height.pt())) <blank>]
  })
  if kind == "tick" or kind == "choice" { place(rect(width: width, height: height, stroke: hair)) }
  else { place(bottom, line(length: 100%, stroke: hair)) }
  if proof and preset != none {
    place(bottom + left, dx: 2pt, dy: -2.5pt, text(font: "Source Sans 3", size: 9pt, fill: rgb("#1a2f66"), preset))
    place(context {
      if measure(text(font: "Source Sans 3", size: 9pt, preset)).width > width { [#metadata((blank: label, text: preset)) <overflow>] }
    })
  }
})

#let widths = (signature: 150pt, initials: 34pt, date: 92pt, name: 150pt, title: 140pt, company: 150pt, text: 140pt, number: 80pt, tick: 9pt, file: 140pt)
#let inline-blank(b) = {
  let preset = b.rules.at("preset", default: none)
  // A space of the text alone would let shape and box touch the words.
  h(2.5pt)
  sign(b.shape, b.letter)
  h(3.5pt)
  if b.kind == "choice" {
    for (i, option) in b.rules.options.enumerate() {
      box(spot(b.id, b.kind, b.role, b.label, b.required, 9pt, 9pt, option: i) + h(4pt) + option + h(9pt))
    }
  } else {
    spot(b.id, b.kind, b.role, b.label, b.required, widths.at(b.kind), if b.kind == "signature" { 26pt } else if b.kind == "tick" { 9pt } else { 13pt }, preset: preset)
    h(2.5pt)
  }
}

// In proofs: a word of a merged value that is wider than the room it has. Only long words are measured.
#let watched(r, body, room) = {
  let longest = r.text.split(regex("[\s\u{200b}]")).fold("", (a, b) => if b.len() > a.len() { b } else { a })
  if not r.gap and longest.len() * look.size * 0.42pt > room {
    context { if measure(text(longest)).width > room { [#metadata((origin: r.origin, text: longest)) <overflow>] } }
  }
  body
}

#let styled(r, body) = {
  if r.bold { body = strong(body) }
  if r.italic { body = emph(body) }
  if r.underline { body = underline(offset: 2pt, body) }
  body
}

#let run(r, room) = {
  if r.kind == "break" { linebreak() }
  else if r.kind == "blank" { inline-blank(r.blank) }
  else if r.kind == "reference" {
    let body = styled(r, text(r.text))
    if r.target == none { body } else { link(label("c-" + r.target), body) }
  }
  else {
    let body = text(r.text)
    if r.gap { body = text(fill: rgb("#A23B2A"), body) }
    body = styled(r, body)
    if proof and r.origin != none { watched(r, link("origin:" + str(r.origin), body), room) } else { body }
  }
}
#let runs(all, room) = for r in all { run(r, room) }

// By common practice signatures never stand on a page without words above them: where they do, <alone> tells.
#let signatures(b) = block(breakable: false, above: 1.6em, width: 100%, {
  if proof { place(top + left, context {
    let at = here().position()
    if at.y < margins.top + 2pt { [#metadata(b.source) <alone>] }
  }) }
  grid(
  columns: (1fr,) * calc.max(1, calc.min(2, b.parties.len())),
  column-gutter: 28pt,
  row-gutter: 22pt,
  ..b.parties.map(p => {
    set par(justify: false, spacing: 0.9em, leading: 0.45em)
    text(font: "Source Sans 3", size: 8.5pt, weight: 600, upper(p.label))
    v(3pt)
    sign(p.signature.shape, p.signature.letter)
    h(3pt)
    spot(p.signature.id, "signature", p.role, p.signature.label, true, 178pt, 40pt)
    linebreak()
    text(font: "Source Sans 3", size: 8.5pt, fill: faint)[Signature]
    parbreak()
    [#text(p.name) #if p.title != "" { linebreak(); text(size: 9.5pt, fill: faint, p.title) }]
    v(6pt)
    sign(p.date.shape, p.date.letter)
    h(3pt)
    spot(p.date.id, "date", p.role, p.date.label, true, 110pt, 15pt)
    linebreak()
    text(font: "Source Sans 3", size: 8.5pt, fill: faint)[Date signed]
  }),
  )
})

// Pictures that cannot be drawn: a frame with their description stands where they would.
#let lost = json(bytes(sys.inputs.at("lost", default: "[]")))
#let picture(name, width, alt) = if name in lost {
  box(width: width, stroke: hair, inset: 8pt, text(font: "Source Sans 3", size: 8.5pt, fill: faint, if alt == "" { "Picture that cannot be drawn" } else { alt }))
} else { image("pictures/" + name, width: width, alt: alt) }

#let places = (left: left, center: center, right: right)

// `room` is the width that is left for words here.
#let draw(b, room) = {
  let drawn = if b.kind == "heading" {
    heading(level: b.level, runs(b.runs, room))
  } else if b.kind == "paragraph" {
    if b.runs.len() == 0 { v(0.6em, weak: true) } else { par(runs(b.runs, room)) }
  } else if b.kind == "clause" {
    let indent = if b.depth == 1 { 24pt } else { 30pt }
    block(above: if b.depth == 1 { 1.3em } else { 0.95em }, grid(
      columns: (indent, 1fr),
      [#metadata(none)#label("c-" + b.id)#text(number-width: "tabular", weight: if b.depth == 1 { 600 } else { 400 }, b.number)],
      for inner in b.blocks { draw(inner, room - indent) },
    ))
  } else if b.kind == "list" {
    let items = b.items.map(item => for inner in item { draw(inner, room - 18pt) })
    if b.ordered { enum(indent: 4pt, body-indent: 7pt, numbering: "(a)", ..items) } else { list(indent: 4pt, body-indent: 7pt, ..items) }
  } else if b.kind == "table" {
    let whole = b.widths.sum()
    let cell(c, at) = {
      let span = range(at, calc.min(at + c.colspan, b.widths.len())).map(i => b.widths.at(i)).sum(default: whole)
      table.cell(colspan: c.colspan, rowspan: c.rowspan, align: places.at(c.align) + top, {
        set par(justify: false, spacing: 0.7em)
        if c.head { set text(weight: 600); for inner in c.blocks { draw(inner, room * (span / whole) - 12pt) } }
        else { for inner in c.blocks { draw(inner, room * (span / whole) - 12pt) } }
      })
    }
    let cells(row) = {
      let at = 0
      let made = ()
      for c in row.cells { made.push(cell(c, at)); at += c.colspan }
      made
    }
    let heads = 0
    while heads < b.rows.len() and b.rows.at(heads).head { heads += 1 }
    set text(size: 0.94em)
    block(above: 1.1em, below: 1.1em, width: 100%, table(
      columns: b.widths.map(w => w * 1fr),
      inset: (x: 6pt, y: 5pt),
      stroke: (x, y) => (bottom: if y < heads { 0.8pt + ink } else { hair }, top: if y == 0 { hair }),
      ..(if heads > 0 { (table.header(..b.rows.slice(0, heads).map(cells).flatten()),) } else { () }),
      ..b.rows.slice(heads).map(cells).flatten(),
    ))
  } else if b.kind == "image" {
    align(places.at(b.align), picture(b.file, room * (b.width / 100), b.alt))
  } else if b.kind == "signatures" {
    signatures(b)
  } else if b.kind == "page break" {
    pagebreak(weak: true)
  }
  if b.keep and b.kind != "page break" { block(breakable: false, drawn) } else { drawn }
}

// What stands before signatures that are kept with it goes to the next page with them.
#let draw-all(blocks, room) = for (i, b) in blocks.enumerate() {
  let next = blocks.at(i + 1, default: none)
  if next != none and next.kind == "signatures" and next.keep { block(sticky: true, draw(b, room)) } else { draw(b, room) }
}

#let initials = doc.initials

#let pieces(all, page-number, pages) = for p in all {
  if "text" in p { p.text } else if p.count == "page" { str(page-number) } else { str(pages) }
}
#let running(line, page-number, pages) = grid(
  columns: (1fr, auto, 1fr),
  column-gutter: 12pt,
  align: (left + bottom, center + bottom, right + bottom),
  ..line.map(slot => pieces(slot, page-number, pages)),
)

// Nothing here may differ from document to document: it is part of every paragraph's style, and paragraphs that are the
// same as in the document before come from the engine's cache (15 to 20 ms a document instead of 90). So nothing
// in it may name `doc`'s words; head and foot are looked up in the body.
#set page(
  paper: if doc.paper == "a4" { "a4" } else { "us-letter" },
  margin: margins,
  header-ascent: 24pt,
  background: if mark != "" { rotate(-35deg, text(font: "Source Sans 3", size: 64pt, weight: 600, fill: rgb("#E9E4DA"), mark)) },
  header: context {
    set text(font: "Source Sans 3", size: 8pt, fill: faint)
    running(query(<running>).first().value.head, counter(page).get().first(), counter(page).final().first())
  },
  footer-descent: 18pt,
  footer: context {
    set text(font: "Source Sans 3", size: 8pt, fill: faint)
    let page-number = counter(page).get().first()
    running(query(<running>).first().value.foot, page-number, counter(page).final().first())
    if initials.len() > 0 {
      v(-15pt)
      align(center, for i in initials {
        sign(i.shape, upper(i.label.first()))
        h(3pt)
        spot("initials." + i.role + "." + str(page-number), "initials", i.role, "Initials, page " + str(page-number), true, 34pt, 15pt)
        h(10pt)
      })
    }
  },
)
#show heading: set text(font: look.headingFamily, fill: rgb(look.headingInk), hyphenate: false)
#show heading.where(level: 1): it => block(below: 1.1em, text(size: look.size * 1.72pt, weight: 600, it.body) + if look.headingRule == "under titles" { v(-0.55em); line(length: 100%, stroke: 0.7pt + rgb(look.headingInk)) })
#show heading.where(level: 2): it => block(above: 1.6em, below: 0.8em, sticky: true, text(size: look.size * 1.14pt, weight: 600, it.body))
#show heading.where(level: 3): it => block(above: 1.3em, below: 0.7em, sticky: true, text(size: look.size * 0.96pt, weight: 600, it.body))

#metadata((head: doc.head, foot: doc.foot)) <running>
#let paper-head = look.letterhead
#if paper-head.logo != none or paper-head.lines.len() > 0 {
  align(places.at(paper-head.align), {
    if paper-head.logo != none { picture(paper-head.logo, paper-head.logoWidth * 1pt, "Logo") }
    if paper-head.lines.len() > 0 {
      set par(spacing: 0.4em, leading: 0.45em, justify: false)
      set text(font: "Source Sans 3", size: 8.5pt, fill: faint)
      block(paper-head.lines.join(linebreak()))
    }
  })
  v(1.2em)
}
#draw-all(doc.blocks, measureof)
