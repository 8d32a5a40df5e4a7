// Draws a finished document (core/merge/finished.ts) given as JSON in sys.inputs.doc. User text reaches Typst only as
// strings: nothing in it is ever read as markup. `sys.inputs.proof` = "yes" links merged parts to their origins.
#let doc = json(bytes(sys.inputs.doc))
#let proof = sys.inputs.at("proof", default: "no") == "yes"
#let ink = rgb("#20242B")
#let faint = rgb("#7A756B")
#let hair = 0.5pt + rgb("#8F897C")

#set document(title: doc.title)
#set text(font: "Source Serif 4", size: 11pt, lang: doc.language.split("-").first(), fill: ink, number-type: "lining")
#set par(justify: true, leading: 0.74em, spacing: 1.05em)

// The role's shape with its letter, small, at the left end of a blank.
#let sign(shape, letter) = {
  let face = text(font: "Source Sans 3", size: 5.5pt, weight: 600, letter)
  let at = (fill: none, stroke: 0.5pt + ink)
  box(width: 8pt, height: 8pt, baseline: 1.5pt, {
    if shape == "square" { place(rect(width: 8pt, height: 8pt, ..at)) }
    else if shape == "diamond" { place(polygon((4pt, -0.8pt), (8.8pt, 4pt), (4pt, 8.8pt), (-0.8pt, 4pt), ..at)) }
    else if shape == "hexagon" { place(polygon((2pt, 0pt), (6pt, 0pt), (8.4pt, 4pt), (6pt, 8pt), (2pt, 8pt), (-0.4pt, 4pt), ..at)) }
    else if shape == "triangle" { place(polygon((4pt, -1pt), (9pt, 8pt), (-1pt, 8pt), ..at)) }
    else { place(circle(radius: 4pt, ..at)) }
    place(center + horizon, face)
  })
}

// A place a signer fills. Its page and position come out by querying <blank>.
#let spot(id, kind, role, label, required, width, height) = box(width: width, height: height, {
  place(top + left, context {
    let at = here().position()
    [#metadata((id: id, kind: kind, role: role, label: label, required: required, page: at.page, x: at.x.pt(), y: at.y.pt(), width: width.pt(), height: height.pt())) <blank>]
  })
  place(bottom, line(length: 100%, stroke: hair))
})

#let widths = (signature: 150pt, initials: 34pt, date: 92pt, text: 140pt)
#let inline-blank(b) = {
  sign(b.shape, b.letter)
  h(2pt)
  spot(b.id, b.kind, b.role, b.label, b.required, widths.at(b.kind), if b.kind == "signature" { 26pt } else { 13pt })
}

#let run(r) = {
  if r.kind == "break" { linebreak() }
  else if r.kind == "blank" { inline-blank(r.blank) }
  else {
    let body = text(r.text)
    if r.gap { body = text(fill: rgb("#A23B2A"), body) }
    if r.bold { body = strong(body) }
    if r.italic { body = emph(body) }
    if proof and r.origin != none { link("origin:" + str(r.origin), body) } else { body }
  }
}
#let runs(all) = for r in all { run(r) }

#let signatures(b) = block(breakable: false, above: 1.6em, width: 100%, grid(
  columns: (1fr,) * calc.min(2, b.parties.len()),
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
))

#let draw(b) = {
  if b.kind == "heading" {
    heading(level: b.level, runs(b.runs))
  } else if b.kind == "paragraph" {
    par(runs(b.runs))
  } else if b.kind == "clause" {
    block(above: if b.depth == 1 { 1.3em } else { 0.95em }, grid(
      columns: (if b.depth == 1 { 24pt } else { 30pt }, 1fr),
      text(number-width: "tabular", weight: if b.depth == 1 { 600 } else { 400 }, b.number),
      for inner in b.blocks { draw(inner) },
    ))
  } else if b.kind == "list" {
    list(indent: 4pt, body-indent: 7pt, ..b.items.map(item => for inner in item { draw(inner) }))
  } else if b.kind == "signatures" {
    signatures(b)
  } else if b.kind == "page break" {
    pagebreak()
  }
}

#let initials = doc.initials

// Nothing here may differ from document to document: it is part of every paragraph's style, and paragraphs that are the
// same as in the document before come from the engine's cache (15 to 20 ms a document instead of 90). So nothing
// in it may name `doc`; the number is looked up in the body.
#set page(
  paper: "us-letter",
  margin: (x: 1.05in, top: 1in, bottom: 1.05in),
  footer-descent: 18pt,
  footer: context {
    set text(font: "Source Sans 3", size: 8pt, fill: faint)
    let page-number = counter(page).get().first()
    grid(
      columns: (1fr, auto, 1fr),
      align: (left + bottom, center + bottom, right + bottom),
      query(<number>).first().value,
      for i in initials {
        sign(i.shape, upper(i.label.first()))
        h(3pt)
        spot("initials." + i.role + "." + str(page-number), "initials", i.role, "Initials, page " + str(page-number), true, 34pt, 15pt)
        h(10pt)
      },
      [Page #page-number of #counter(page).final().first()],
    )
  },
)
#show heading.where(level: 1): it => block(below: 1.1em, text(size: 19pt, weight: 600, hyphenate: false, it.body))
#show heading.where(level: 2): it => block(above: 1.6em, below: 0.8em, text(size: 12.5pt, weight: 600, it.body))
#show heading.where(level: 3): it => block(above: 1.3em, below: 0.7em, text(size: 10.5pt, weight: 600, it.body))

#metadata(if doc.number != none { doc.number } else { "" }) <number>
#for b in doc.blocks { draw(b) }
