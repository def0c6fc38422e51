"""Rundgang: planner, calculator, simulator and logbook for industrial bakeries."""
