"""The Qt Widgets face: shows values, turns gestures into edits and commands."""
