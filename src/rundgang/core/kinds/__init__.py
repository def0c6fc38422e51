"""The kinds of station, one module each: what the station is, what a step there asks of it, and what follows.

A kind's module holds its station, its step, and its *operation*: the step done at the station, which knows its
capacity, its dwell, its places, the gap it needs before another operation, and what a stop does to what is
inside. What is asked of any kind is asked of an operation (`operation`); nothing else tells kinds apart.
"""
