"""Signals: timings, links and what they carry, gangs, EDID, and how rates meet."""
