"""Word trees."""
