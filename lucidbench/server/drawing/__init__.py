"""What a page asks while it draws, and what is the same for all: nothing of it is kept."""
