// A receipt. Values: office, address, date, reference, title, to, subject, opening, rows (label, amount, note), total, files (name, slot, size, sha256), closing.
#import "office.typ": *
#show: paper.with(d.subject)
#text(10.5pt)[#d.to]
#v(4mm)
#heading(level: 1, text(14pt, d.subject))
#text(fill: second)[#d.title]

#d.opening

#for line in d.at("lines", default: ()) {
  block(spacing: 8pt)[#line]
}

#if d.rows.len() > 0 {
  table(columns: (1fr, auto), stroke: none, align: (left, right), inset: (x: 0pt, y: 5pt),
    ..d.rows.map(r => (
      [#r.label #if r.note != "" [ \ #text(8.5pt, fill: second)[#r.note]]],
      mono(r.amount))).flatten(),
    table.hline(stroke: 0.6pt + line-colour),
    [*#d.total.label*], [*#mono(d.total.amount)*])
}

#if d.files.len() > 0 {
  heading(level: 2, text(11.5pt)[#d.files_title])
  for f in d.files {
    block(spacing: 8pt, breakable: false)[#f.name #text(fill: second)[· #f.slot · #f.size] \ #text(size: 7.5pt, fill: second, mono("SHA-256 " + f.sha256))]
  }
}

#d.closing
