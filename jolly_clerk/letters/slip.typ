// A slip to pay by transfer, cheque or in cash. Values: those of the letterhead, subject, rows (label, value), owed (texts), how (texts), closing.
#import "office.typ": *
#show: paper.with(d.subject)
#text(10.5pt)[#d.to]
#v(4mm)
#heading(level: 1, text(18pt, d.subject))
#text(fill: second)[#d.title]
#v(3mm)
#block(width: 100%, inset: 12pt, stroke: 0.8pt + line-colour)[
  #table(columns: (auto, 1fr), stroke: none, inset: (x: 0pt, y: 6pt), column-gutter: 14pt,
    ..d.rows.map(r => (text(fill: second, r.label), text(12pt, mono(r.value)))).flatten())
]
#for line in d.owed [
  #line \
]
#v(2mm)
#for line in d.how {
  block(spacing: 8pt)[#line]
}
#d.closing
