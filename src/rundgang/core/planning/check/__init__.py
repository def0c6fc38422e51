"""The independent check of a plan: from first principles, sharing no code with what made it.

It walks the first and the last piece of every run down its route and looks at every station, mixer, kettle,
trough, tank, dough and lorry: nothing may overlap, overfill, age out, be late unannounced, or be lost, and
nothing that has begun may be moved. `plans` puts the parts together; `kinds` has a match of its own over the
kinds of station.
"""
