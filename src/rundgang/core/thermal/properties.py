"""Properties of matter that more than one calculation needs, each with its source."""

DOUGH_KJ_KG_K = 2.8
"""Specific heat of dough, kJ/kgK (from memory)."""
