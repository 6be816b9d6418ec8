"""Commands that work on files alone, without the application."""
