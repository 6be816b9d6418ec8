"""Who may use this server."""
