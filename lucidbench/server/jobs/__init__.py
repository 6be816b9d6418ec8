"""Long work in processes of its own: followed, bounded, and ended at once."""
