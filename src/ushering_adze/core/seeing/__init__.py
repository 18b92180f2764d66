"""Seeing: rectangles found in pictures, and what a camera sees of a screen."""
