"""The rules of the job.

Frozen models in, frozen models out. Nothing here reads a clock, a file, a database or a random seed
that is not passed in. Times are minutes from the window's start, masses grams or kilograms as each
name says, temperatures degrees Celsius, rates per hour.
"""
