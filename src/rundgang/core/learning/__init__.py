"""Learning: what the record of the floor says of doughs, pieces and machines, beside what the library says.

`observed` finds what there is to observe in counts, stops and checks; `estimates` turns it into a figure and the
interval it lies in, `facts` knows where each figure stands in the library, and `lessons` sets one beside the other.
Nothing is learnt by itself: a planner takes a lesson, or leaves it.
"""
