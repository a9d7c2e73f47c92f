// What an issuer states in words. Values: office, address, date, reference, subject, title, text, from, lang.
#import "office.typ": *
#show: paper.with(d.subject)
#heading(level: 1, text(18pt, d.subject))
#text(fill: second)[#d.title]
#v(4mm)
#text(11.5pt, d.text)
#v(8mm)
#d.from
