"""Pictures: frames, the composition of layers on a canvas, and the mapping of regions onto outputs."""
