"""Where things lie: rectangles, homographies, typed geometry, and the front view of the room."""
