"""The parts of `tools/torture.py`."""
