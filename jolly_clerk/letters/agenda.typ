// The agenda of a meeting, or its minutes. Values: office, address, date, reference, to, title, subject, opening, titles (no, case, result), rows (no, reference, title, said, signed, result, words).
#import "office.typ": *
#show: paper.with(d.subject)
#heading(level: 1, text(14pt, d.subject))
#d.to #text(fill: second)[· #d.title]

#d.opening

#table(columns: (auto, 1fr, auto), stroke: none, align: (right, left, left), inset: (x: 4pt, y: 6pt),
  table.header(..d.titles.map(t => text(8.5pt, fill: second, t)), table.hline(stroke: 0.6pt + line-colour)),
  ..d.rows.map(r => (
    mono(r.no),
    [*#r.title* \ #mono(text(8.5pt, r.reference)) #text(8.5pt, fill: second)[· #r.said]
      #for words in r.signed [\ #text(8.5pt, fill: second, words)]
      #if r.words != "" [\ #r.words]],
    strong(r.result))).flatten())
