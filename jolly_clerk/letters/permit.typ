// The permit. Values: office, address, date, reference, title, to, subject, law, rows (label, value), conditions, granted, code, check, qr (SVG); says, conditions_title, real, look, qr_says (fixed sentences).
#import "office.typ": *
#show: paper.with(d.subject)
#text(10.5pt)[#d.to]
#v(4mm)
#heading(level: 1, text(18pt, d.subject))
#text(fill: second)[#d.law · #mono(d.reference) · #d.granted]
#v(4mm)
#d.says

#table(columns: (auto, 1fr), stroke: none, inset: (x: 0pt, y: 5pt), column-gutter: 12pt,
  ..d.rows.map(r => (text(fill: second, r.label), [*#r.value*])).flatten())

#if d.conditions != "" [
  #heading(level: 2, text(12pt)[#d.conditions_title])
  #d.conditions
]

#v(1fr)
#block(breakable: false, width: 100%, inset: 12pt, stroke: 0.8pt + line-colour)[
  #grid(columns: (28mm, 1fr), column-gutter: 8mm, align: horizon,
    image(bytes(d.qr), format: "svg", width: 28mm, alt: d.qr_says),
    [#d.real #d.look \ #mono(d.check) \ #v(2pt) #text(15pt, mono(d.code))])
]
