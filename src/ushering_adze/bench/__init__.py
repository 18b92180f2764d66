"""The benchmark, one file for each family of rows: ratios to named baselines taken in the same run."""
