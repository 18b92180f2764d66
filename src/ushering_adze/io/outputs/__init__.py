"""Where finished pictures go that is not a window."""
