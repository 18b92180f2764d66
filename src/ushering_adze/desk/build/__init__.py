"""The Build workspace."""
