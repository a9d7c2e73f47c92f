// The docket of something that comes by post. Values: office, address, date, reference, subject, title, slot, what, lay, keep, no, qr (SVG), qr_says, lang.
#import "office.typ": *
#show: paper.with(d.subject)
#heading(level: 1, text(18pt, d.subject))
#text(fill: second)[#d.title]
#v(8mm)
#grid(columns: (1fr, 62mm), column-gutter: 12mm,
  [#text(14pt, weight: "bold", d.slot) \ #v(2mm) #text(12pt, d.what) #v(8mm) #mono(text(20pt, d.no))],
  image(bytes(d.qr), format: "svg", width: 62mm, alt: d.qr_says))
#v(10mm)
#line(length: 100%, stroke: 0.6pt + ink)
#text(12pt, d.lay)
#v(2mm)
#text(10pt, fill: second, d.keep)
