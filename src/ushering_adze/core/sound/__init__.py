"""Sound as numbers: levels, meters, loudness, mixing, keeping in step, and sounds to test with."""
