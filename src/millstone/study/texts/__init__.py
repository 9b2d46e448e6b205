"""The texts of a step: read, scanned, kept between runs."""
