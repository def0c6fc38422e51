"""The simulated plant: it works by the published plan as people and machines do, and is measured as a real one is.

`standing` is when a station stands, `chance` what cannot be foreseen, `line` how pieces go down a line, `plant` all
lines by all plans that were published, and `server` the instruments over OPC UA. Its physics are its own: it shares no
code with the check, the search or what a stop is advised by. Everything it tells says that it is simulated.
"""
