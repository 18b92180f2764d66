"""Ushering Adze: configure every screen of an event, map and blend its pixels, and recall its pictures."""

__version__ = "0.1.0"
