"""Recall: what is on every layer at any moment, as a pure function of what was asked for and when."""
