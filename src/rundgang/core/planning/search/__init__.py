"""The search for a plan: a rule's order of the items, then orders annealed, lines that share something together.

`plant` plans a plant's lines; `groups` searches lines that share something, as one list; `annealing` and `moves`
are its compiled heart, `cooling` its plan; `stopping` says when it ends.
"""
