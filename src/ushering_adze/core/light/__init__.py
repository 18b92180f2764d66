"""Light: transfer functions, blend weights, and test patterns."""
