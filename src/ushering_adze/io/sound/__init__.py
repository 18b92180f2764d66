"""Sound in and out: of clips, live inputs and devices."""
