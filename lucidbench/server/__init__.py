"""The web application: stores exercises, checks who and what, and asks the core."""
