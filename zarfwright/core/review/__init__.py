"""What a review is held on: light as numbers (`area`, `grid`, `maps`, `lit`), what each seat sees (`sight`)."""
