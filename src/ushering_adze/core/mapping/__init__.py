"""Mapping: regions, where they land and bend, arranging them, and making them from what is rigged."""
