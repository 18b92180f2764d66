"""The plane: rectangles, homographies, meshes and the way back through them, lenses, areas covered."""
