"""The compiled decoder: from an order of items to runs with times, over all lines that share something.

Neighbouring items of one product on a line become one run; what an earlier run made too much is taken from the
next one's demand. Each run is placed at its earliest: when every run before it on its line has the headway it
needs at every station of all its legs, when its stations are neither closed nor taken by another line, its
stores have room and its people are free, and when a mixer, trough, kettle and tank are free for every one of
its doughs and fillings. These are mixed as late as they may be, so none is older than it must be. Who stands
earlier in the list is served first, whichever line it is on.

One noun a module: `arrays` (what all the others work on), `units` (mixers, troughs, kettles, tanks), `stations`
(headways, closings, machines that lines share), `stores`, `crews`, `lorries`, `runs` (the decoder itself) and
`appraisal` (what the result is worth). `shop` makes the arrays of a scenario, `reading` reads the result.
"""
