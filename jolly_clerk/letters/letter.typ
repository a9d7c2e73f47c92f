// A letter. Values: office, address, date, reference, title, to, to_address, contact, subject, note, opening, points (no, title, article, text, places, link, code), closing, officer,
// article_word, answer_here, question.
#import "office.typ": *
#show: paper.with(d.subject)
#text(10.5pt)[#d.to#if d.at("to_address", default: "") != "" [ \ #d.to_address]]
#v(4mm)
#heading(level: 1, text(14pt, d.subject))
#text(fill: second)[#d.title]

#let note = d.at("note", default: "")
#if note != "" [#note #parbreak()]
#d.opening

#for p in d.points {
  block(breakable: false, width: 100%, inset: (left: 10pt, y: 6pt), stroke: (left: 2.5pt + petrol), spacing: 10pt)[
    #let link-to = p.at("link", default: "")
    #grid(columns: if link-to != "" { (1fr, 17mm) } else { (1fr,) }, column-gutter: 6mm,
      [
        #heading(level: 2, text(11.5pt)[#p.no #h(4pt) #p.title])
        #p.text \
        #text(9pt, fill: second)[#p.places #if p.article != "" [ · #d.at("article_word", default: "art.") #p.article]]
        #if link-to != "" [ \ #text(9pt, fill: petrol)[#d.answer_here #link(link-to)]]
      ],
      ..if link-to != "" { (link(link-to, image(bytes(p.code), format: "svg", width: 17mm, alt: d.answer_here)),) } else { () },
    )
  ]
}

#d.closing

#v(4mm)
#if d.officer != "" [#d.officer \ ]
#text(fill: second)[#d.office]
#if d.at("contact", default: "") != "" [\ #text(9pt, fill: second)[#d.at("question", default: "") #d.contact]]
