"""Simulated devices: they show what the real ones would, and keep to themselves how they stand."""
