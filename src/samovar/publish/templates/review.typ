// A review as a document. All words come from article.json as plain text: nothing in them is markup.
#let a = json("article.json")
#let soft = rgb("#5f564b")
#let brass = rgb("#8a5a00")
#let rule = rgb("#cfc6b6")
#let states = (holds: rgb("#1f6b38"), weak: rgb("#7d6100"), open: rgb("#7d6100"), contradicted: rgb("#a82a1c"), stale: rgb("#6a44ad"))

#set document(title: a.title, author: if a.author != "" { (a.author,) } else { () })
#set page(
  paper: "a4", margin: (x: 22mm, top: 24mm, bottom: 22mm),
  header: context if counter(page).get().first() > 1 { text(8pt, fill: soft)[#a.title #h(1fr) #a.t.edition] },
  footer: context text(8pt, fill: soft)[#h(1fr) #counter(page).display("1 / 1", both: true)],
)
#set text(font: ("Libertinus Serif", "DejaVu Serif", "DejaVu Sans"), size: 10.5pt, lang: a.language)
#set par(justify: true, leading: 0.62em)
#set heading(numbering: none)
#show heading.where(level: 1): it => block(above: 1.8em, below: 0.8em, width: 100%, stroke: (top: 1.4pt + brass), inset: (top: 0.5em), text(14pt, it.body))
#show heading.where(level: 2): it => block(above: 1.2em, below: 0.5em, text(11pt, it.body))
#show figure: set block(breakable: false)
#show figure.caption: it => align(left, text(8.5pt, fill: soft, it.body))
#show table: set text(font: "DejaVu Sans", size: 6.6pt)
#show table: set par(justify: false)

#let plain(words) = text(words)
#let sheet(g) = {
  let narrow = g.heads.len() > 7
  table(
    columns: (auto,) + (1fr,) * (g.heads.len() - 1),
    stroke: (x, y) => (bottom: 0.4pt + rule),
    inset: (x: 3pt, y: 3pt),
    align: left,
    table.header(..g.heads.map(h => text(fill: soft, weight: "bold", h))),
    ..g.rows.enumerate().map(((r, row)) => row.enumerate().map(((c, cell)) => {
      if g.best.len() > r and g.best.at(r).contains(c) { text(weight: "bold", fill: states.holds, cell) } else { text(cell) }
    })).flatten(),
  )
}
#let picture(p, width: 100%) = figure(image(p.file, width: width, alt: p.title + ". " + p.finding), caption: if p.finding != "" { plain(p.finding) } else { plain(p.title) }, supplement: none, numbering: none)

#text(23pt, weight: "bold", a.title)
#v(-0.6em)
#text(12.5pt, fill: soft, a.question)
#v(0.2em)
#text(9pt, fill: soft)[#a.t.edition#if a.author != "" [, #a.author].]

#block(fill: rgb("#f4efe6"), inset: 11pt, width: 100%, stroke: (left: 3pt + brass))[
  #for (n, one) in a.told.enumerate() {
    if "photo" in one {
      figure(image(one.photo.file, width: 100%, alt: one.photo.words), caption: plain(one.photo.caption), supplement: none, numbering: none)
    } else {
      for (k, b) in one.blocks.enumerate() {
        let words = b.pieces.map(p => {
          let w = if p.bold { text(weight: "bold", p.text) } else { text(p.text) }
          if p.italic { emph(w) } else { w }
        }).join()
        if b.kind == "h" { block(above: 1em, text(12pt, weight: "bold", words)) } else if b.kind == "li" { list.item(words) } else if n == 0 and k == 0 { par(text(11.5pt, words)) } else { par(words) }
      }
    }
  }
]

#if a.conclusion.len() > 0 {
  grid(columns: (auto, 1fr), column-gutter: 12pt, row-gutter: 7pt, ..a.conclusion.map(((title, words)) => (text(fill: soft, title), words.map(w => text(w)).join(linebreak()))).flatten())
}

#outline(title: text(11pt, a.t.contents), depth: 1, indent: 0pt)

= #a.t.claimed
#if a.claims.len() == 0 { a.t.none_claimed } else {
  table(
    columns: (2fr, auto, 3fr, 3fr), stroke: (x, y) => (bottom: 0.4pt + rule), inset: (x: 3pt, y: 3pt), align: left,
    table.header(..a.t.claim_heads.map(h => text(fill: soft, weight: "bold", h))),
    ..a.claims.map(c => (text(c.claim), text(fill: states.at(c.state, default: soft), weight: "bold", c.said), text(c.finding), text(c.evidence))).flatten(),
  )
}

#for section in a.sections [
  = #plain(section.title)
  #sheet(section.table)
  #for words in section.words { par(text(words)) }
  #if section.steps != none { sheet(section.steps) }
  #for p in section.pictures { picture(p, width: 88%) }
]

#if a.sounds != none [
  = #a.t.sounds
  #sheet(a.sounds)
]

#if a.near != none [
  = #a.t.near
  #plain(a.near.words)
  #picture(a.near.picture)
]

#if a.lacking.len() > 0 [
  = #a.t.lacking
  #for (setup, kind, item) in a.lacking [- #text(weight: "bold", setup), #plain(kind): #plain(item)]
]

#if a.products.len() > 0 [
  = #a.t.products
  #for p in a.products [
    == #plain(p.name)
    #if p.figures.len() > 0 { text(8.5pt, fill: soft, p.figures.join("; ") + ".") }
    #for words in p.lines [- #plain(words)]
    #if p.drawing != none { picture(p.drawing, width: 70%) }
  ]
]

= #a.t.method
#for (heading, words) in a.method [
  == #plain(heading)
  #plain(words)
]

= #a.t.caveats
#if a.caveats.len() == 0 [#a.t.no_caveats]
#for words in a.caveats [- #plain(words)]

#if a.readings != none [
  = #a.t.readings
  #sheet(a.readings)
]

= #a.t.runs
#sheet(a.runs)
#if a.changes.len() > 0 [
  == #a.t.changes
  #for words in a.changes [- #plain(words)]
]
#v(1em)
#text(8pt, fill: soft)[#if a.licence != "" [Data under #a.licence. ] Made with Samovar #a.version.]
