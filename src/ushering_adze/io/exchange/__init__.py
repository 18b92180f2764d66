"""Files that are exchanged with others: guide pictures in, drawings out, outlines of panels in."""
