// A letter. Values: office, address, date, reference, title, to, subject, note, opening, points (no, title, article, text, places), closing, officer.
#import "office.typ": *
#show: paper.with(d.subject)
#text(10.5pt)[#d.to]
#v(4mm)
#heading(level: 1, text(14pt, d.subject))
#text(fill: second)[#d.title]

#let note = d.at("note", default: "")
#if note != "" [#note #parbreak()]
#d.opening

#for p in d.points {
  block(breakable: false, width: 100%, inset: (left: 10pt, y: 6pt), stroke: (left: 2.5pt + petrol), spacing: 10pt)[
    #heading(level: 2, text(11.5pt)[#p.no #h(4pt) #p.title])
    #p.text \
    #text(9pt, fill: second)[#p.places #if p.article != "" [ · art. #p.article]]
  ]
}

#d.closing

#v(4mm)
#d.officer \
#text(fill: second)[#d.office]
