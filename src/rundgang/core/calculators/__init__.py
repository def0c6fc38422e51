"""Calculators: calculations that stand alone, each a question with ranges and an answer with its arithmetic.

Every entry takes its figures from nobody but the person asking, so it can be used before a product or a
plant is described. The questions' fields carry what a form needs: title, range, a first value to begin
from, and the quantity that says in which units they are read and typed.
"""
