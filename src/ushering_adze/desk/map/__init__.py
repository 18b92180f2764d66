"""Map: canvas, output raster and room side by side, and the geometry of what is selected."""
