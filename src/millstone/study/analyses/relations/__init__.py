"""What belongs together: networks of terms, words used alike."""
