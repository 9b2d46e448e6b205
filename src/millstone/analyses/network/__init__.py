"""Networks of terms."""
