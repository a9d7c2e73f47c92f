// A sheet in the place of a paper that cannot be bound. Values: office, address, date, reference, subject, text, sha256.
#import "office.typ": *
#show: paper.with(d.subject)
#heading(level: 1, text(14pt, d.subject))
#d.text

#text(size: 7.5pt, fill: second, mono("SHA-256 " + d.sha256))
