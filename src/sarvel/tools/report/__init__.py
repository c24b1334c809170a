"""What a plan makes and what pages fetch of it, as a page, a document or a review."""
