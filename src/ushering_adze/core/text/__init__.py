"""Text that is shown: its pages and steps, and how it is broken into lines."""
