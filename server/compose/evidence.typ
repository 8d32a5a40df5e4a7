// The trail's summary as the document's last pages. Data as in evidence.ts, JSON in sys.inputs.doc.
#let doc = json(bytes(sys.inputs.doc))
#let ink = rgb("#20242B")
#let faint = rgb("#7A756B")
#set document(title: "Evidence, " + doc.number)
#set text(font: "Source Sans 3", size: 9pt, fill: ink, lang: "en", number-width: "tabular")
#set par(leading: 0.55em, spacing: 0.7em)
#set page(
  paper: "us-letter",
  margin: (x: 1.05in, y: 1in),
  footer: context [#set text(size: 8pt, fill: faint); #doc.number #h(1fr) Evidence, page #counter(page).display() of #counter(page).final().first()],
)
#let time(t) = t.replace("T", " ").slice(0, 19) + " UTC"
#let mono(t) = text(size: 7.5pt, t)
#let label(t) = text(fill: faint, t)
#show heading: it => block(above: 1.5em, below: 0.8em, text(font: "Source Serif 4", weight: 600, size: if it.level == 1 { 17pt } else { 11.5pt }, it.body))

= Evidence of signing
#grid(columns: (92pt, 1fr), row-gutter: 6pt,
  label[Agreement], doc.name,
  label[Number], [#doc.number, revision #doc.revision],
  label[Identifier], mono(doc.agreement),
  label[Document sent], [SHA-256 #mono(doc.documentHash)],
  label[Trail], [#doc.trail.entries entries, last hash #mono(doc.trail.head)],
)

== Signed by
#for p in doc.parties {
  block(breakable: false, above: 1em, stroke: (top: 0.5pt + rgb("#DDD8CE")), inset: (top: 7pt), width: 100%, grid(
    columns: (92pt, 1fr), row-gutter: 5pt,
    label(p.label), [*#text(p.name)*#if p.title != "" [, #text(p.title)]],
    label[Mail address], text(p.email),
    label[Identity], [personal link sent to this mail address],
    label[Consent given], time(p.consentedAt),
    label[Signed], [#time(p.signedAt), #text(p.signature)],
    label[Network address], text(p.address),
  ))
}

== What happened
#table(columns: (auto, auto, auto, 1fr, auto), stroke: (x, y) => if y > 0 { (top: 0.4pt + rgb("#DDD8CE")) }, inset: (x: 4pt, y: 3.5pt),
  table.header(label[], label[Time], label[By], label[Act], label[Hash]),
  ..doc.entries.map(e => (str(e.seq), time(e.at), text(e.actor), text(e.act), mono(e.hash.slice(0, 12)))).flatten(),
)
#v(6pt)
#label[This file is sealed: any change after sealing shows in every reader that checks signatures. Each entry's hash covers the entry before it.]
