// The letterhead and the small pieces that every paper of the office shares.
#let d = json(bytes(sys.inputs.values))
#let ink = rgb("#1c2a2c")
#let second = rgb("#56646a")
#let petrol = rgb("#0e4f55")
#let line-colour = rgb("#d9d0bb")
#let mono(it) = text(font: "IBM Plex Mono", size: 0.95em, it)

#let paper(title, body) = {
  set document(title: title, author: d.office)
  set page(paper: "a4", margin: (x: 25mm, top: 22mm, bottom: 24mm), footer: context [
    #set text(8.5pt, fill: second)
    #d.office · #mono(d.reference) #h(1fr) #d.at("page_word", default: "page") #counter(page).display("1 " + d.at("of_word", default: "of") + " 1", both: true)
  ])
  set text(font: "Atkinson Hyperlegible Next", size: 10.5pt, fill: ink, lang: d.at("lang", default: "en"))
  set par(leading: 0.7em, spacing: 1.1em)
  show heading: set text(font: "Bitter", fill: ink)
  grid(columns: (1fr, auto), align: (left, right),
    [#text(font: "Bitter", weight: "bold", size: 15pt, fill: petrol)[#d.office] \ #text(9pt, fill: second)[#d.address]],
    text(9.5pt)[#d.date \ #mono(d.reference)])
  v(2mm)
  line(length: 100%, stroke: 0.8pt + petrol)
  v(6mm)
  body
}
