"""Run: program over preview, what the next take changes, and the presets."""
