# Was eine Veröffentlichung sagt, auf Deutsch. Project Fluent: https://projectfluent.org

name-of-the-language = Deutsch

### Der Entwurf: jede Meldung ist ein Satz oder ein Teil davon. Werte kommen, wie sie gedruckt werden, mit ihren Halbbreiten.

## Die Antwort

nothing-measured = Noch ist nichts gemessen: erst einen Lauf aufzeichnen.
on-rig = **{ $rig }.** { $sentence }
count = { $n ->
    [1] einem
    [2] zwei
    [3] drei
    [4] vier
    [5] fünf
    [6] sechs
    [7] sieben
    [8] acht
    [9] neun
   *[other] { $n }
}
best = { $figure ->
    [rise] bleibt am kühlsten
    [work] schafft am meisten
    [noise] ist am leisesten
    [clock] hält den höchsten Takt
    [score] erreicht die meisten Punkte
    [time] ist am schnellsten fertig
    [price] kostet am wenigsten
    [power] nimmt am wenigsten auf
    [settle] schwingt am schnellsten ein
    [temperature] hält am kühlsten: { $part }
    [temperature-rise] hält am kühlsten: { $part }
    [rate] ist vorn: { $label }
   *[other] ist vorn: { $label }
}
pick-alone = { $pick } ist die Wahl: unter „{ $load }“ erfüllt von { $count } nur { $pick } nachweislich alles Verlangte: { $asked }.
pick-best = { $pick } ist die Wahl: von den { $count }, die unter „{ $load }“ alles Verlangte erfüllen ({ $asked }), gilt: { $pick } { $best }.
pick-price = { $pick } ist die Wahl: unter „{ $load }“ sind { $level } in allen Wünschen gleichauf, und { $pick } kostet am wenigsten.
pick-then = { $pick } ist die Wahl: unter „{ $load }“ sind { $level } nicht zu unterscheiden ({ $label }){ $asked ->
    [none] { "" }
   *[other] {" "}und erfüllen alles Verlangte ({ $asked })
}; davon gilt: { $pick } { $best }.
pick-wish = { $pick } ist die Wahl: unter „{ $load }“ gilt: { $pick } { $best }, { $value }; es folgt { $next } mit { $other }.
pick-lone-wish = { $pick } ist die Wahl: unter „{ $load }“ gilt: { $pick } { $best }, { $value }.
hangs-on = Das hängt an „{ $demand }“: ohne diese Forderung wäre { $other } die Wahl.
no-pick-level = Noch keine Wahl: unter „{ $load }“ sind { $names } { $asked ->
    [none] { "" }
   *[other] trotz erfüllter Forderungen ({ $asked }){" "}
}weder durch einen Wunsch noch durch einen Preis zu unterscheiden.
none-meets = Von { $count } erfüllt keiner alles Verlangte unter „{ $load }“: { $asked }.
none-shown = Von { $count } ist für keinen nachgewiesen, dass er alles Verlangte unter „{ $load }“ erfüllt: { $asked }.
no-wish-tells = Was unter „{ $load }“ gemessen ist, sagt noch nicht, wer zu wählen ist.
leads = { $label } unter „{ $load }“: { $values }.
measured-there = Gemessen sind dort: { $figures }.
reaches = { $name }: { $figures }.
only-one = Außer { $name } ist nichts gemessen; ob anderes besser wäre, ist nicht bekannt.

fig = { $figure ->
    [rise] { $value } über dem Raum
    [work] Arbeit { $value }
    [noise] Geräusch { $value }
    [clock] Takt { $value }
    [score] { $value }
    [time] { $value } für die Aufgabe
    [price] { $value }
    [power] Aufnahme { $value }
    [temperature] { $part } bei { $value }
    [temperature-rise] { $part } { $value } über dem Raum
    [rate] { $label } { $value }
   *[other] { $label } { $value }
}

## Wie es einem Aufbau unter einer Last ergeht

state-clear = Unter „{ $load }“ hält { $name } nichts zurück{ $clock ->
    [none] .
   *[other] : der Takt bleibt bei { $clock }.
}
base = { $base ->
    [none] { "" }
   *[other] , { $side ->
        [over] über
       *[under] unter
    } dem Basistakt von { $base }
}
free = { $free ->
    [none] { "" }
   *[other] ; ungebremst lief dieselbe Last mit { $free }
}
state-budget = Unter „{ $load }“ gibt bei { $name } das Leistungsbudget das Tempo vor, nicht die Wärme: { $clock }{ $base }{ $free }.
state-rides = Unter „{ $load }“ liegt { $name } an der Temperaturgrenze: { $clock }{ $base }{ $free }.
state-throttles = Unter „{ $load }“ drückt die Temperaturgrenze { $name } auf { $clock }{ $base }{ $free }.
state-stopped = Unter „{ $load }“ endete jeder Lauf von { $name } vorzeitig.
state-figures = Unter „{ $load }“ gilt für { $name }: { $figures }.
meets-all = { $name } erfüllt alles Verlangte: { $asked }.
meets-some = { $name } erfüllt { $met }.
demand-with = „{ $demand }“{ $value ->
    [none] { "" }
   *[other] { " " }mit { $value }
}
misses = { $name } verfehlt { $missed }.
unshown = { $value ->
    [none] Ob { $name } „{ $demand }“ erfüllt, ist nicht gemessen.
   *[other] Für { $name } ist weder gezeigt, dass „{ $demand }“ erfüllt ist, noch das Gegenteil: { $value }.
}

## Gegeneinander

gain = { $figure ->
    [rise] { $way ->
        [better] { $size } kühler
       *[worse] { $size } wärmer
    }
    [work] { $way ->
        [better] { $size } mehr Arbeit
       *[worse] { $size } weniger Arbeit
    }
    [noise] { $way ->
        [better] { $size } leiser
       *[worse] { $size } lauter
    }
    [clock] { $way ->
        [better] { $size } mehr Takt
       *[worse] { $size } weniger Takt
    }
    [score] { $way ->
        [better] { $size } mehr Punkte
       *[worse] { $size } weniger Punkte
    }
    [time] { $way ->
        [better] { $size } weniger Zeit
       *[worse] { $size } mehr Zeit
    }
    [power] { $way ->
        [better] { $size } weniger Aufnahme
       *[worse] { $size } mehr Aufnahme
    }
    [settle] { $way ->
        [better] { $size } schneller eingeschwungen
       *[worse] { $size } langsamer eingeschwungen
    }
    [temperature] { $way ->
        [better] { $part } { $size } kühler
       *[worse] { $part } { $size } wärmer
    }
    [temperature-rise] { $way ->
        [better] { $part } { $size } kühler
       *[worse] { $part } { $size } wärmer
    }
    [rate] { $way ->
        [better] { $label } { $size } höher
       *[worse] { $label } { $size } niedriger
    }
   *[other] { $way ->
        [better] { $label } { $size } besser
       *[worse] { $label } { $size } schlechter
    }
}
same-in = kein Unterschied von praktischer Bedeutung bei: { $labels }
against = { $name } gegen { $other }: { $gains }.
against-nothing = Was unter „{ $load }“ gemessen ist, unterscheidet { $name } noch nicht von { $other }.
better-but = { $name } wäre besser ({ $gains }), verfehlt aber { $missed }.
step-helps = { $after } hilft; gegen { $before }: { $gains }.
step-both = { $after } ist zweischneidig; gegen { $before }: { $gains }.
step-hurts = { $after } schadet; gegen { $before }: { $gains }.
step-same = { $after } ändert nichts, was im Gebrauch zählt; gegen { $before }: { $gains }.
step-open = Dass { $after } hilft, ist nicht gezeigt: was unter „{ $load }“ gemessen ist, unterscheidet es nicht von { $before }.
step-once = { $after } gegen { $before }: { $gains }, im je einzigen Durchgang; erst ein zweiter von jedem zeigt, ob das Bestand hat.
step-unmeasured = Was { $after } bewirkt, ist unter „{ $load }“ nicht gemessen.

## Was es kostet

costs = { $name } kostet { $price }.
costs-more = { $name } kostet { $price }, { $more } mehr als { $other }, das Billigste{ $asked ->
    [none] .
   *[other] { " " }von denen, die alles Verlangte erfüllen.
}
costs-least = { $name } kostet { $price }, am wenigsten von { $asked ->
    [none] allen.
   *[other] denen, die alles Verlangte erfüllen.
}
costs-extra = { $after } kostet { $more } mehr als { $before }.
price-unknown = Ein Preis ist nicht bekannt für { $names }.

## Für wen, und für wen nicht

for-clear = { $name } trägt „{ $load }“ ohne Ende: nichts hält es zurück.
for-budget = Wer unter „{ $load }“ mehr von { $name } will, muss das Leistungsbudget anheben: die Wärme lässt Platz.
for-limit = { $name } hat unter „{ $load }“ nichts mehr übrig: es liegt an der Temperaturgrenze, und ein wärmerer Raum kostet Takt.
not-for = { $name } ist nicht für „{ $load }“: { $reasons }.
reason-throttles = die Temperaturgrenze drückt es unter den Basistakt{ $free ->
    [none] { "" }
   *[other] , von { $free } ungebremst auf { $clock }, ein Verlust von { $loss }
}
reason-rides = es liegt an der Temperaturgrenze{ $free ->
    [none] { "" }
   *[other] , von { $free } ungebremst auf { $clock }, ein Verlust von { $loss }
}
reason-stopped = seine Läufe endeten vorzeitig
reason-misses = es verfehlt { $missed }

## Was nicht bekannt ist

not-measured = Nicht gemessen: { $cells }.
not-measured-of = Nicht gemessen: { $n } von { $all } Zellen{ $among ->
    [none] .
   *[other] ; darunter { $among }.
}
cell = { $name } unter „{ $load }“
single-passes = Nur ein Durchgang, seine Streuung von den anderen geborgt: { $names }.
no-scatter = Kein Aufbau hat einen zweiten Durchgang unter „{ $load }“; nichts sagt, wie Durchgänge streuen, und kein Unterschied ist gezeigt.
not-settled = Offen: { $sentences }

## Kleine Wörter

and = und
