"""From results to files, figures and pages."""
