"""What is live: one line a page, on which it asks what a document means and has runs carried out."""
