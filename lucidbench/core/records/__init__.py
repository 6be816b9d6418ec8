"""Records: what a bench gave, with its uncertainty, as curves like any other."""
