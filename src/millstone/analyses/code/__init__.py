"""Code: a sheet on which coders say what a category ought to count."""
