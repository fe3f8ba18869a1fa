# What a publication says, in English. Project Fluent: https://projectfluent.org

name-of-the-language = English

### The draft: each message is one sentence, or a clause of one. Values come as they are printed, with their half-widths.

## The answer

nothing-measured = Nothing measured yet: record a run, then come back.
on-rig = **{ $rig }.** { $sentence }
count = { $n ->
    [1] one
    [2] two
    [3] three
    [4] four
    [5] five
    [6] six
    [7] seven
    [8] eight
    [9] nine
   *[other] { $n }
}
best = { $figure ->
    [rise] runs coolest
    [work] gets the most work done
    [noise] is the quietest
    [clock] holds the highest clock
    [score] scores highest
    [time] is done soonest
    [price] costs least
    [power] draws the least power
    [settle] settles soonest
    [temperature] keeps the { $part } coolest
    [temperature-rise] keeps the { $part } coolest
    [rate] has the highest { $label }
   *[other] is best in { $label }
}
pick-alone = { $pick } is the pick: under { $load } it alone of { $count } is shown to meet all that is asked, { $asked }.
pick-best = { $pick } is the pick: of the { $count } that meet all that is asked under { $load }, { $asked }, it { $best }.
pick-price = { $pick } is the pick: under { $load } { $level } are level in all that is wished for, and { $pick } costs least.
pick-then = { $pick } is the pick: under { $load } { $level } are not told apart in { $label }{ $asked ->
    [none] { "" }
   *[other] {" "}and meet all that is asked, { $asked }
}, and of them { $pick } { $best }.
pick-wish = { $pick } is the pick: under { $load } it { $best }, { $value }; next is { $next } with { $other }.
pick-lone-wish = { $pick } is the pick: under { $load } it { $best }, { $value }.
hangs-on = That hangs on “{ $demand }”: without it the pick would be { $other }.
no-pick-level = No pick yet: under { $load } { $names } { $asked ->
    [none] are
   *[other] meet all that is asked, { $asked }, and are
} not told apart by any wish, nor by a price.
none-meets = None of the { $count } meets all that is asked under { $load }: { $asked }.
none-shown = None of the { $count } is shown to meet all that is asked under { $load }: { $asked }.
no-wish-tells = Nothing measured under { $load } says yet which to pick.
leads = { $label } under { $load }: { $values }.
measured-there = There it { $figures }.
reaches = { $name } { $figures }.
only-one = Nothing else was measured beside { $name }, so whether another would do better is not known.

fig = { $figure ->
    [rise] settles { $value } over the room
    [work] does { $value } of work
    [noise] makes { $value } of noise
    [clock] holds { $value }
    [score] scores { $value }
    [time] takes { $value } for the task
    [price] costs { $value }
    [power] draws { $value }
    [temperature] has its { $part } at { $value }
    [temperature-rise] has its { $part } { $value } over the room
    [rate] has a { $label } of { $value }
   *[other] has { $value } of { $label }
}

## How a setup fares under a load

state-clear = Under { $load } nothing holds { $name } back{ $clock ->
    [none] .
   *[other] : it keeps { $clock }.
}
base = { $base ->
    [none] { "" }
   *[other] , { $side ->
        [over] above
       *[under] below
    } its base clock of { $base }
}
free = { $free ->
    [none] { "" }
   *[other] ; unheld, the same load ran at { $free }
}
state-budget = Under { $load } a power budget sets the pace of { $name }, not the heat: { $clock }{ $base }{ $free }.
state-rides = Under { $load } { $name } sits at its temperature limit: { $clock }{ $base }{ $free }.
state-throttles = Under { $load } a temperature limit pushes { $name } down to { $clock }{ $base }{ $free }.
state-stopped = Under { $load } every run of { $name } ended early.
state-figures = Under { $load } { $name } { $figures }.
meets-all = { $name } meets all that is asked: { $asked }.
meets-some = { $name } meets { $met }.
demand-with = “{ $demand }”{ $value ->
    [none] { "" }
   *[other] { " " }with { $value }
}
misses = { $name } misses { $missed }.
unshown = { $value ->
    [none] Whether { $name } meets “{ $demand }” was not measured.
   *[other] { $name } is not shown to meet “{ $demand }”, nor to miss it: { $value }.
}

## Against each other

gain = { $figure ->
    [rise] { $way ->
        [better] is { $size } cooler
       *[worse] is { $size } hotter
    }
    [work] { $way ->
        [better] gets { $size } more work done
       *[worse] gets { $size } less work done
    }
    [noise] { $way ->
        [better] is { $size } quieter
       *[worse] is { $size } louder
    }
    [clock] { $way ->
        [better] holds a clock { $size } higher
       *[worse] holds a clock { $size } lower
    }
    [score] { $way ->
        [better] scores { $size } higher
       *[worse] scores { $size } lower
    }
    [time] { $way ->
        [better] takes { $size } less time
       *[worse] takes { $size } more time
    }
    [power] { $way ->
        [better] draws { $size } less power
       *[worse] draws { $size } more power
    }
    [settle] { $way ->
        [better] settles { $size } sooner
       *[worse] settles { $size } later
    }
    [temperature] { $way ->
        [better] keeps the { $part } { $size } cooler
       *[worse] lets the { $part } get { $size } hotter
    }
    [temperature-rise] { $way ->
        [better] keeps the { $part } { $size } cooler
       *[worse] lets the { $part } get { $size } hotter
    }
    [rate] { $way ->
        [better] has { $size } more { $label }
       *[worse] has { $size } less { $label }
    }
   *[other] { $way ->
        [better] is { $size } ahead in { $label }
       *[worse] is { $size } behind in { $label }
    }
}
same-in = shows no practical difference in { $labels }
against = Against { $other }, { $name } { $gains }.
against-nothing = Nothing measured tells { $name } from { $other } under { $load } yet.
better-but = { $name } { $gains }, but misses { $missed }.
step-helps = { $after } helps: against { $before } it { $gains }.
step-both = { $after } cuts both ways: against { $before } it { $gains }.
step-hurts = { $after } does harm: against { $before } it { $gains }.
step-same = { $after } changes nothing that matters in use: against { $before } it { $gains }.
step-open = { $after } is not shown to help: nothing measured under { $load } tells it from { $before }.
step-once = Against { $before }, { $after } { $gains } in the one pass there is of each; a second of each has to show whether that stands.
step-unmeasured = What { $after } does was not measured under { $load }.

## What it costs

costs = { $name } costs { $price }.
costs-more = { $name } costs { $price }, { $more } more than { $other }, the cheapest{ $asked ->
    [none] .
   *[other] { " " }that meets what is asked.
}
costs-least = { $name } costs { $price }, the least of { $asked ->
    [none] all.
   *[other] those that meet what is asked.
}
costs-extra = { $after } costs { $more } more than { $before }.
price-unknown = No price is known for { $names }.

## For whom, and for whom not

for-clear = { $name } can run { $load } without end: nothing holds it back.
for-budget = Who wants more of { $name } under { $load } has to raise its power budget: the heat leaves room.
for-limit = { $name } has nothing left under { $load }: it sits at its temperature limit, and a warmer room costs clock.
not-for = { $name } is not for { $load }: { $reasons }.
reason-throttles = a temperature limit pushes it below its base clock{ $free ->
    [none] { "" }
   *[other] , from { $free } when free to { $clock }, a loss of { $loss }
}
reason-rides = it sits at its temperature limit{ $free ->
    [none] { "" }
   *[other] , from { $free } when free to { $clock }, a loss of { $loss }
}
reason-stopped = its runs ended early
reason-misses = it misses { $missed }

## What is not known

not-measured = Not measured: { $cells }.
not-measured-of = Not measured: { $n } of { $all } cells{ $among ->
    [none] .
   *[other] ; { $among } among them.
}
cell = { $name } under { $load }
single-passes = One pass only, its scatter borrowed from the others: { $names }.
no-scatter = No setup has a second pass under { $load }, so nothing tells how passes scatter, and no difference is shown.
not-settled = Not settled: { $sentences }

## Small words

and = and
