"""`./lucid benchmark`: how quick the work is, as ratios within one run."""
