"""What is on air and how it moves: states, motion, the stage, actions, the delta."""
