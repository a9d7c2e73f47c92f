// A sheet to sign a filing by hand. Values: office, address, date, reference, subject, title, text, declared (texts), files_title, files (name, sha256), name, place, signature, back, qr (SVG), qr_says, lang.
#import "office.typ": *
#show: paper.with(d.subject)
#heading(level: 1, text(18pt, d.subject))
#text(fill: second)[#d.title]
#v(3mm)
#text(12pt, d.text)
#for declared in d.declared [
  #block(inset: (left: 4mm))[#declared]
]
#if d.files.len() > 0 [
  #v(2mm)
  #text(9pt, fill: second)[#d.files_title] \
  #set text(8.5pt)
  #for file in d.files.slice(0, calc.min(d.files.len(), 18)) [
    #file.name #h(1fr) #mono(file.sha256) \
  ]
]
#v(1fr)
#let blank(label) = [#v(9mm) #line(length: 100%, stroke: 0.6pt + ink) #v(-2mm) #text(9pt, fill: second, label)]
#block(breakable: false)[
  #grid(columns: (1fr, 42mm), column-gutter: 12mm, align: (left, right + bottom),
    [#blank(d.name) #blank(d.place) #v(6mm) #blank(d.signature)],
    image(bytes(d.qr), format: "svg", width: 42mm, alt: d.qr_says))
  #v(3mm)
  #text(9pt, fill: second, d.back)
]
