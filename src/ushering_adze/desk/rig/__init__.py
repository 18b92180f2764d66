"""The Rig workspace: signals, outputs, displays."""
