"""Displays: LED walls, monitor walls, projection, what is bound to what, and the rig in figures."""
