// What an issuer states in words: a paper of theirs, so without the head of the office. Values: subject, title, reference, text, from, to, lang.
#let d = json(bytes(sys.inputs.values))
#set document(title: d.subject)
#set page(paper: "a4", margin: (x: 28mm, y: 26mm))
#set text(font: "Atkinson Hyperlegible Next", size: 11.5pt, lang: d.lang)
#text(16pt, weight: "bold", d.subject) \
#text(10pt)[#d.title #h(1fr) #d.reference]
#v(8mm)
#d.text
#v(10mm)
#text(weight: "bold", d.from) \
#text(10pt, d.to)
