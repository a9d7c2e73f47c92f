// A sheet to lay between papers before they are scanned together. Values: office, text, lang.
#let d = json(bytes(sys.inputs.values))
#set document(title: d.text)
#set page(paper: "a4", margin: 25mm)
#set text(font: "Atkinson Hyperlegible Next", size: 14pt, lang: d.lang)
#align(center)[
  #v(30mm)
  #image("separator.svg", width: 95mm)
  #v(10mm)
  #d.text
  #v(4mm)
  #text(10pt)[#d.office]
]
