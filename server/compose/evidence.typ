// The evidence as the document's last pages. Data as in core/evidence/said.ts, JSON in sys.inputs.doc: text that is drawn as it is.
#let doc = json(bytes(sys.inputs.doc))
#let ink = rgb("#20242B")
#let faint = rgb("#6F6A61")
#set document(title: doc.title + ", " + doc.foot)
#set text(font: "Source Sans 3", size: 9pt, fill: ink, lang: doc.language, number-width: "tabular")
#set par(leading: 0.55em, spacing: 0.7em)
#set page(
  paper: "us-letter",
  margin: (x: 1.05in, y: 1in),
  footer: context [#set text(size: 8pt, fill: faint); #doc.foot #h(1fr) #doc.title, #counter(page).display() / #counter(page).final().first()],
)
// Long hashes and addresses may break anywhere.
#let breakable(t) = t.clusters().join(sym.zws)
#let said(r) = if r.at("code", default: false) { text(size: 7.5pt, breakable(r.text)) } else { text(r.text) }
#let label(t) = text(fill: faint, t)
#let rows(all) = all.map(r => (label(r.label), said(r))).flatten()
#show heading: it => block(above: 1.5em, below: 0.8em, text(font: "Source Serif 4", weight: 600, size: if it.level == 1 { 17pt } else { 11.5pt }, it.body))

= #doc.title
#grid(columns: (92pt, 1fr), row-gutter: 6pt, ..rows(doc.rows))

== #doc.signedBy
#for p in doc.parties {
  block(breakable: false, above: 1em, stroke: (top: 0.5pt + rgb("#DDD8CE")), inset: (top: 7pt), width: 100%, grid(
    columns: (92pt, 1fr), row-gutter: 5pt,
    label(p.label), text(weight: 600, p.name),
    ..rows(p.rows),
  ))
}

== #doc.happened
#table(columns: (auto, 122pt, 92pt, 1fr, auto), stroke: (x, y) => if y > 0 { (top: 0.4pt + rgb("#DDD8CE")) }, inset: (x: 4pt, y: 3.5pt),
  table.header(label[], ..doc.columns.map(label)),
  ..doc.acts.map(e => (e.at(0), e.at(1), text(e.at(2)), text(e.at(3)), text(size: 7.5pt, e.at(4)))).flatten(),
)
#v(6pt)
#label(doc.closing)
