"""What Map and Align share: rasters that are looked at closely, guide pictures, and questions that need numbers."""
