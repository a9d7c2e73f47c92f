// The cover of papers bound together. Values: office, address, date, reference, title, to, subject, opening, titles (no, paper, sheets, begins), rows (no, name, slot, said, sheets, begins), closing.
#import "office.typ": *
#show: paper.with(d.subject)
#heading(level: 1, text(14pt, d.subject))
#d.to #text(fill: second)[· #d.title]

#d.opening

#table(columns: (auto, 1fr, auto, auto), stroke: none, align: (right, left, right, right), inset: (x: 4pt, y: 5pt),
  table.header(..d.titles.map(t => text(8.5pt, fill: second, t)), table.hline(stroke: 0.6pt + line-colour)),
  ..d.rows.map(r => (
    mono(r.no),
    [#r.name \ #text(8.5pt, fill: second)[#r.slot · #r.said]],
    mono(r.sheets), mono(r.begins))).flatten())

#d.closing
